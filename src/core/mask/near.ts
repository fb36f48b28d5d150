/** 1 within so many px of a cover, by squares; `covered` lists its pixels as y × width + x. */
export function nearCover(
  cover: Uint8Array,
  width: number,
  height: number,
  covered: Iterable<number>,
  by: number,
): Uint8Array {
  const out = new Uint8Array(cover.length);
  for (const i of covered) {
    const x = i % width;
    const y = (i - x) / width;
    const inner = x > 0 && x + 1 < width && y > 0 && y + 1 < height;
    // Only the cover's border reaches beyond it.
    if (inner && cover[i - 1] && cover[i + 1] && cover[i - width] && cover[i + width]) {
      out[i] = 1;
      continue;
    }
    const x0 = Math.max(0, x - by);
    const x1 = Math.min(width, x + by + 1);
    for (let v = Math.max(0, y - by); v <= Math.min(height - 1, y + by); v++)
      out.fill(1, v * width + x0, v * width + x1);
  }
  return out;
}
