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
  const left = cover.slice();
  const layers = new Uint16Array(covered.length);
  // Places in `covered` of those that are still to be done.
  let layer: number[] = Array.from(covered, (_, n) => n);
  for (let depth = 1; layer.length; depth++) {
    const next: number[] = [];
    const done: number[] = [];
    for (const place of layer) {
      const i = covered[place];
      layers[place] = depth;
      const x = i % width;
      const y = (i - x) / width;
      let n = 0;
      let [r, g, b] = [0, 0, 0];
      for (let v = Math.max(0, y - 1); v <= Math.min(height - 1, y + 1); v++) {
        for (let u = Math.max(0, x - 1); u <= Math.min(width - 1, x + 1); u++) {
          const j = v * width + u;
          if (left[j]) continue;
          r += image[4 * j];
          g += image[4 * j + 1];
          b += image[4 * j + 2];
          n++;
        }
      }
      if (!n) {
        next.push(place);
        continue;
      }
      image[4 * i] = r / n;
      image[4 * i + 1] = g / n;
      image[4 * i + 2] = b / n;
      done.push(i);
    }
    if (!done.length) {
      // All is covered: middle grey.
      for (const place of next) image.fill(128, 4 * covered[place], 4 * covered[place] + 3);
      return layers;
    }
    for (const i of done) left[i] = 0;
    layer = next;
  }
  return layers;
}
