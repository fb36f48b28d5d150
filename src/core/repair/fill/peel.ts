/**
 * First guess at covered pixels, layer by layer from the border: the mean of the neighbours that are there. In place.
 * @returns the layer of each, from 1
 */
export function peel(
  image: Float32Array,
  width: number,
  height: number,
  cover: Uint8Array,
  covered: Int32Array,
): Uint16Array {
  // 1 where a pixel is still to be done, 2 where it stands in this layer or the next.
  const left = cover.slice();
  const depths = new Uint16Array(cover.length);
  const around = new Int32Array(8);
  const beside = [-width - 1, -width, 1 - width, -1, 1, width - 1, width, width + 1];
  /** Pixels beside one; says how many. */
  const look = (i: number): number => {
    const x = i % width;
    const y = (i - x) / width;
    let n = 0;
    if (x > 0 && y > 0 && x + 1 < width && y + 1 < height) {
      for (; n < 8; n++) around[n] = i + beside[n];
      return n;
    }
    for (let v = Math.max(0, y - 1); v <= Math.min(height - 1, y + 1); v++)
      for (let u = Math.max(0, x - 1); u <= Math.min(width - 1, x + 1); u++)
        if (u !== x || v !== y) around[n++] = v * width + u;
    return n;
  };
  let layer: number[] = [];
  for (const i of covered) {
    const n = look(i);
    for (let k = 0; k < n; k++) {
      if (cover[around[k]]) continue;
      layer.push(i);
      break;
    }
  }
  for (const i of layer) left[i] = 2;
  for (let depth = 1; layer.length; depth++) {
    const next: number[] = [];
    for (const i of layer) {
      depths[i] = depth;
      const n = look(i);
      let count = 0;
      let [r, g, b] = [0, 0, 0];
      for (let k = 0; k < n; k++) {
        const j = around[k];
        if (left[j] === 1) {
          left[j] = 2;
          next.push(j);
        }
        if (left[j]) continue;
        r += image[4 * j];
        g += image[4 * j + 1];
        b += image[4 * j + 2];
        count++;
      }
      image[4 * i] = r / count;
      image[4 * i + 1] = g / count;
      image[4 * i + 2] = b / count;
    }
    // A layer counts as known only when it is done, so that its order does not matter.
    for (const i of layer) left[i] = 0;
    layer = next;
  }
  return Uint16Array.from(covered, (i) => {
    // All is covered: middle grey.
    if (!depths[i]) image.fill(128, 4 * i, 4 * i + 3);
    return Math.max(1, depths[i]);
  });
}
