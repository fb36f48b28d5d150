import { colourChannels, fullScale, type Raster } from './raster.ts';

/**
 * Colour of a raster as floats on the 8-bit scale (0…255), four a pixel (red, green, blue, 0; grey fills the first
 * lane only), with a border of `pad` pixels that repeats the edge. 16-bit samples keep their fractions.
 */
export function toFloat4(source: Raster, pad = 0): Float32Array {
  const { width, height, channels } = source;
  const colours = colourChannels(channels);
  const scale = 255 / fullScale(source.depth);
  const stride = width + 2 * pad;
  const out = new Float32Array(stride * (height + 2 * pad) * 4);
  for (let y = -pad; y < height + pad; y++) {
    const sy = y < 0 ? 0 : y >= height ? height - 1 : y;
    for (let x = -pad; x < width + pad; x++) {
      const sx = x < 0 ? 0 : x >= width ? width - 1 : x;
      const from = (sy * width + sx) * channels;
      const to = ((y + pad) * stride + x + pad) * 4;
      for (let c = 0; c < colours; c++) out[to + c] = source.data[from + c] * scale;
    }
  }
  return out;
}

/**
 * Luma of a float image of four lanes (Rec. 709 weights; for grey the first lane), one float a pixel.
 */
export function lumaOf(image: Float32Array, colours: 1 | 3): Float32Array {
  const out = new Float32Array(image.length / 4);
  for (let i = 0, p = 0; i < out.length; i++, p += 4) {
    out[i] = colours === 1 ? image[p] : 0.2126 * image[p] + 0.7152 * image[p + 1] + 0.0722 * image[p + 2];
  }
  return out;
}

/** Gaussian kernel of standard deviation `sigma` pixels, cut at 3 σ, summing to 1. */
export function gaussianKernel(sigma: number, radius = Math.ceil(3 * sigma)): Float32Array {
  const out = new Float32Array(2 * radius + 1);
  let sum = 0;
  for (let i = -radius; i <= radius; i++) sum += out[i + radius] = Math.exp((-i * i) / (2 * sigma * sigma));
  for (let i = 0; i < out.length; i++) out[i] /= sum;
  return out;
}

/** Separable Gaussian blur of a one-channel float image; edges are repeated. */
export function blur(source: Float32Array, width: number, height: number, sigma: number): Float32Array {
  const kernel = gaussianKernel(sigma);
  const r = (kernel.length - 1) / 2;
  const out = new Float32Array(source.length);
  const mid = new Float32Array(source.length);
  const row = new Float32Array(width + 2 * r);
  for (let y = 0; y < height; y++) {
    const at = y * width;
    row.fill(source[at], 0, r);
    row.set(source.subarray(at, at + width), r);
    row.fill(source[at + width - 1], r + width);
    // Both sides of the kernel at once: they weigh the same.
    for (let x = 0; x < width; x++) mid[at + x] = kernel[r] * row[x + r];
    for (let k = 1; k <= r; k++) {
      const weight = kernel[r + k];
      const [left, right] = [r - k, r + k];
      for (let x = 0; x < width; x++) mid[at + x] += weight * (row[x + left] + row[x + right]);
    }
  }
  for (let y = 0; y < height; y++) {
    const at = y * width;
    for (let x = 0; x < width; x++) out[at + x] = kernel[r] * mid[at + x];
    for (let k = 1; k <= r; k++) {
      const weight = kernel[r + k];
      const above = Math.max(0, y - k) * width;
      const below = Math.min(height - 1, y + k) * width;
      for (let x = 0; x < width; x++) out[at + x] += weight * (mid[above + x] + mid[below + x]);
    }
  }
  return out;
}

/**
 * Mean over a square of (2 radius + 1)² pixels, taken twice, so that it falls off like a tent; pixels outside count as 0.
 * Costs the same for every radius.
 */
export function spread(source: Float32Array, width: number, height: number, radius: number): Float32Array {
  let out = source;
  for (let pass = 0; pass < 2; pass++) {
    out = runningMean(out, width, height, 1, width, radius);
    out = runningMean(out, height, width, width, 1, radius);
  }
  return out;
}

/** Running mean along `lines` lines of `length` pixels; `stride` from pixel to pixel, `jump` from line to line. */
function runningMean(
  source: Float32Array,
  length: number,
  lines: number,
  stride: number,
  jump: number,
  radius: number,
): Float32Array {
  const out = new Float32Array(source.length);
  const share = 1 / (2 * radius + 1);
  for (let l = 0; l < lines; l++) {
    const at = l * jump;
    let sum = 0;
    for (let k = -radius; k < length; k++) {
      if (k + radius < length) sum += source[at + (k + radius) * stride];
      if (k - radius - 1 >= 0) sum -= source[at + (k - radius - 1) * stride];
      if (k >= 0) out[at + k * stride] = sum * share;
    }
  }
  return out;
}
