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
 * Source: Felzenszwalb & Huttenlocher, "Distance Transforms of Sampled Functions", 2012.
 */
export function distanceTransform(
  mask: Uint8Array,
  width: number,
  height: number,
  to: 'outside' | 'inside',
): Float32Array {
  const n = Math.max(width, height);
  const f = new Float64Array(n);
  const d = new Float64Array(n);
  const v = new Int32Array(n);
  const z = new Float64Array(n + 1);
  const out = new Float32Array(width * height);
  for (let x = 0; x < width; x++) {
    for (let y = 0; y < height; y++) f[y] = (mask[y * width + x] !== 0) === (to === 'inside') ? 0 : 1e10;
    transformLine(f, height, d, v, z);
    for (let y = 0; y < height; y++) out[y * width + x] = Math.min(d[y], 1e10);
  }
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) f[x] = out[y * width + x];
    transformLine(f, width, d, v, z);
    for (let x = 0; x < width; x++) out[y * width + x] = Math.sqrt(d[x]);
  }
  return out;
}
