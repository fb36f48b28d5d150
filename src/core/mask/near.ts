/** 1 where the squared distance in px to a cover is at most `by`² + `slack`; `covered` lists its pixels as y × width + x. */
export function nearCover(
  cover: Uint8Array,
  width: number,
  height: number,
  covered: Iterable<number>,
  by: number,
  slack = 1,
): Uint8Array {
  const out = new Uint8Array(cover.length);
  const reach = Array.from({ length: by + 1 }, (_, dy) => Math.floor(Math.sqrt(by * by + slack - dy * dy)));
  for (const i of covered) {
    const x = i % width;
    const y = (i - x) / width;
    const inner = x > 0 && x + 1 < width && y > 0 && y + 1 < height;
    // Only the cover's border reaches beyond it.
    if (inner && cover[i - 1] && cover[i + 1] && cover[i - width] && cover[i + width]) {
      out[i] = 1;
      continue;
    }
    for (let v = Math.max(0, y - by); v <= Math.min(height - 1, y + by); v++) {
      const across = reach[Math.abs(v - y)];
      out.fill(1, v * width + Math.max(0, x - across), v * width + Math.min(width, x + across + 1));
    }
  }
  return out;
}
