/** Takes the 8-connected group that begins at a px out of a mask. @returns its px, the first one first */
export function takeGroup(mask: Uint8Array, start: number, width: number): number[] {
  const out = [start];
  mask[start] = 0;
  for (let k = 0; k < out.length; k++) {
    const x = out[k] % width;
    for (let row = out[k] - width; row <= out[k] + width; row += width)
      for (let j = row - (x > 0 ? 1 : 0); j <= row + (x < width - 1 ? 1 : 0); j++) {
        if (!mask[j]) continue;
        mask[j] = 0;
        out.push(j);
      }
  }
  return out;
}

/** A mask grown by a square of so many px to each side, in time that does not depend on how many. @returns 1 where it is */
export function grownBySquare(mask: Uint8Array, width: number, height: number, by: number): Uint8Array {
  const across = new Uint8Array(mask.length);
  const out = new Uint8Array(mask.length);
  for (let y = 0; y < height; y++)
    for (let x = 0, last = -Infinity, i = y * width; x < width; x++, i++) {
      if (mask[i]) {
        if (x - last > by) across.fill(1, i - Math.min(by, x), i);
        last = x;
      }
      if (x - last <= by) across[i] = 1;
    }
  for (let x = 0; x < width; x++)
    for (let y = 0, last = -Infinity; y < height; y++) {
      if (across[y * width + x]) {
        if (y - last > by) for (let v = Math.max(0, y - by); v < y; v++) out[v * width + x] = 1;
        last = y;
      }
      if (y - last <= by) out[y * width + x] = 1;
    }
  return out;
}
