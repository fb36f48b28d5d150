import type { Box } from '../raster/raster.ts';

const FAR = 1e20;
/** Distance in px where there is nothing to reach; larger than any picture. */
const UNREACHED = 1e5;

function transformLine(f: Float64Array, n: number, d: Float64Array, v: Int32Array, z: Float64Array): void {
  let k = 0;
  v[0] = 0;
  z[0] = -FAR;
  z[1] = FAR;
  for (let q = 1; q < n; q++) {
    let s = (f[q] + q * q - (f[v[k]] + v[k] * v[k])) / (2 * q - 2 * v[k]);
    while (s <= z[k]) {
      k--;
      s = (f[q] + q * q - (f[v[k]] + v[k] * v[k])) / (2 * q - 2 * v[k]);
    }
    k++;
    v[k] = q;
    z[k] = s;
    z[k + 1] = FAR;
  }
  k = 0;
  for (let q = 0; q < n; q++) {
    while (z[k + 1] < q) k++;
    d[q] = (q - v[k]) * (q - v[k]) + f[v[k]];
  }
}

/**
 * Exact Euclidean distance in pixels from each pixel to the nearest one where `mask` is zero (`to = 'outside'`) or
 * non-zero (`to = 'inside'`). Where there is none, the distance is larger than any picture.
 * @param box only looks and measures in there, and gives 0 elsewhere; the whole by default
 * Source: Felzenszwalb & Huttenlocher, "Distance Transforms of Sampled Functions", 2012.
 */
export function distanceTransform(
  mask: Uint8Array,
  width: number,
  height: number,
  to: 'outside' | 'inside',
  box: Box = { x: 0, y: 0, width, height },
): Float32Array {
  const n = Math.max(box.width, box.height);
  const f = new Float64Array(n);
  const d = new Float64Array(n);
  const v = new Int32Array(n);
  const z = new Float64Array(n + 1);
  const out = new Float32Array(width * height);
  const first = box.y * width + box.x;
  const inside = to === 'inside';
  // Down each column first: as far as to the nearer end of the run of pixels in which one lies.
  for (let x = 0; x < box.width; x++) {
    let since = UNREACHED;
    for (let y = 0, i = first + x; y < box.height; y++, i += width) {
      since = (mask[i] !== 0) === inside ? 0 : Math.min(UNREACHED, since + 1);
      out[i] = since;
    }
    since = UNREACHED;
    for (let y = box.height - 1, i = first + x + y * width; y >= 0; y--, i -= width) {
      since = out[i] === 0 ? 0 : Math.min(UNREACHED, since + 1);
      if (since < out[i]) out[i] = since;
    }
  }
  // Then along each row, run by run: nothing beyond a pixel of distance 0 can be nearer than that one.
  for (let y = 0; y < box.height; y++) {
    const row = out.subarray(first + y * width, first + y * width + box.width);
    for (let x = 0; x < box.width; x++) {
      if (row[x] === 0) continue;
      const from = Math.max(0, x - 1);
      while (x < box.width && row[x] !== 0) x++;
      const count = Math.min(box.width, x + 1) - from;
      for (let k = 0; k < count; k++) f[k] = row[from + k] ** 2;
      transformLine(f, count, d, v, z);
      for (let k = 0; k < count; k++) row[from + k] = Math.sqrt(d[k]);
    }
  }
  return out;
}
