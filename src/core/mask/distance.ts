import type { Box } from '../raster/raster.ts';

const FAR = 1e20;

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
  for (let x = 0; x < box.width; x++) {
    for (let y = 0, i = first + x; y < box.height; y++, i += width)
      f[y] = (mask[i] !== 0) === (to === 'inside') ? 0 : 1e10;
    transformLine(f, box.height, d, v, z);
    for (let y = 0, i = first + x; y < box.height; y++, i += width) out[i] = Math.min(d[y], 1e10);
  }
  for (let y = 0; y < box.height; y++) {
    const row = out.subarray(first + y * width, first + y * width + box.width);
    f.set(row);
    transformLine(f, box.width, d, v, z);
    for (let x = 0; x < box.width; x++) row[x] = Math.sqrt(d[x]);
  }
  return out;
}
