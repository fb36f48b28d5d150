import { blur, gaussianKernel } from '../raster/planes.ts';

function windowMean(source: Float32Array, width: number, height: number): Float32Array {
  // 11 × 11 Gaussian window of σ 1.5, cut off exactly at 5 px.
  const kernel = gaussianKernel(1.5, 5);
  const mid = new Float32Array(source.length);
  const out = new Float32Array(source.length);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      let s = 0;
      for (let k = -5; k <= 5; k++) s += kernel[k + 5] * source[y * width + Math.min(width - 1, Math.max(0, x + k))];
      mid[y * width + x] = s;
    }
  }
  for (let y = 0; y < height; y++) {
    for (let k = -5; k <= 5; k++) {
      const from = Math.min(height - 1, Math.max(0, y + k)) * width;
      for (let x = 0; x < width; x++) out[y * width + x] += kernel[k + 5] * mid[from + x];
    }
  }
  return out;
}

const product = (a: Float32Array, b: Float32Array) => a.map((v, i) => v * b[i]);

/**
 * Structural similarity of two luma images (0…255) at every pixel: 11 × 11 Gaussian window of σ 1.5, K1 = 0.01,
 * K2 = 0.03; edges are repeated.
 * Source: Wang, Bovik, Sheikh & Simoncelli, "Image Quality Assessment: From Error Visibility to Structural
 * Similarity", 2004.
 */
export function ssimMap(a: Float32Array, b: Float32Array, width: number, height: number): Float32Array {
  const c1 = (0.01 * 255) ** 2;
  const c2 = (0.03 * 255) ** 2;
  const ma = windowMean(a, width, height);
  const mb = windowMean(b, width, height);
  const aa = windowMean(product(a, a), width, height);
  const bb = windowMean(product(b, b), width, height);
  const ab = windowMean(product(a, b), width, height);
  return ma.map((m, i) => {
    const n = mb[i];
    const va = aa[i] - m * m;
    const vb = bb[i] - n * n;
    const cov = ab[i] - m * n;
    return ((2 * m * n + c1) * (2 * cov + c2)) / ((m * m + n * n + c1) * (va + vb + c2));
  });
}

/** Mean of a map over the pixels where `mask` is non-zero. */
export function meanInside(map: Float32Array, mask: Uint8Array): number {
  let s = 0;
  let n = 0;
  for (let i = 0; i < map.length; i++) {
    if (!mask[i]) continue;
    s += map[i];
    n++;
  }
  return n ? s / n : 0;
}

/** Peak signal-to-noise ratio in dB over the pixels inside `mask`, all given channels together (peak 255). */
export function psnrInside(a: ArrayLike<number>, b: ArrayLike<number>, channels: number, mask: Uint8Array): number {
  let s = 0;
  let n = 0;
  for (let i = 0; i < mask.length; i++) {
    if (!mask[i]) continue;
    for (let c = 0; c < channels; c++) s += (a[i * channels + c] - b[i * channels + c]) ** 2;
    n += channels;
  }
  return s === 0 ? Infinity : 10 * Math.log10((255 * 255 * n) / s);
}

/** Standard deviation, inside `mask`, of luma minus its Gaussian blur of σ 2 px: how grainy a place is. */
export function grainInside(luma: Float32Array, width: number, height: number, mask: Uint8Array): number {
  const soft = blur(luma, width, height, 2);
  let s = 0;
  let q = 0;
  let n = 0;
  for (let i = 0; i < mask.length; i++) {
    if (!mask[i]) continue;
    const h = luma[i] - soft[i];
    s += h;
    q += h * h;
    n++;
  }
  return n ? Math.sqrt(Math.max(0, q / n - (s / n) ** 2)) : 0;
}
