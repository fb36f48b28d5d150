import type { Level } from './levels.ts';

/** Floats a pixel in {@link featuresOf}: colour, slope of luma to the right and downwards, colour of the ground, how much goes on. */
export const LANES = 12;
/** Weight of how much goes on against the tone of the ground. */
const TEXTURE = 1;

/** How much the lanes weigh: fine detail (colour and slope) against the tone of the ground. */
export interface Weighting {
  detail: number;
  ground: number;
}

/**
 * What pixels are compared by: the ground weighs most, so that a seam within a ground is cheap and one between two grounds is
 * dear however alike single pixels are.
 */
export const BY_GROUND: Weighting = { detail: 0.6, ground: 3 };
/** What tells courses, bars and joints apart, whose tone on the large is everywhere the same. */
export const BY_DETAIL: Weighting = { detail: 1, ground: 0 };

/**
 * Features of every known pixel of a level (8-bit scale, weighted), so that the distance of two pixels is a norm. The ground is
 * the mean of known colours over 5 × 5 px, taken twice. At covered pixels they mean nothing.
 */
export function featuresOf(level: Level, { detail, ground }: Weighting): Float32Array {
  const { width, height, pixels, known: sure } = level;
  const n = width * height;
  const out = new Float32Array(n * LANES);
  const luma = new Float32Array(n);
  for (let i = 0; i < n; i++)
    luma[i] = 0.2126 * pixels[4 * i] + 0.7152 * pixels[4 * i + 1] + 0.0722 * pixels[4 * i + 2];
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      for (let c = 0; c < 3; c++) out[i * LANES + c] = detail * pixels[4 * i + c];
      const left = x > 0 && sure[i - 1] ? i - 1 : i;
      const right = x + 1 < width && sure[i + 1] ? i + 1 : i;
      const above = y > 0 && sure[i - width] ? i - width : i;
      const below = y + 1 < height && sure[i + width] ? i + width : i;
      if (right > left) out[i * LANES + 3] = (detail * (luma[right] - luma[left])) / (right - left);
      if (below > above) out[i * LANES + 4] = (detail * (luma[below] - luma[above]) * width) / (below - above);
    }
  }
  if (!ground) return out;
  const known = Float32Array.from(sure);
  for (let c = 0; c < 3; c++) {
    let plane: Float32Array = new Float32Array(n);
    for (let i = 0; i < n; i++) plane[i] = pixels[4 * i + c];
    for (let pass = 0; pass < 2; pass++) plane = knownMean(plane, known, width, height, 2);
    for (let i = 0; i < n; i++) out[i * LANES + 5 + c] = ground * plane[i];
  }
  let busy: Float32Array = Float32Array.from(
    { length: n },
    (_, i) => Math.abs(out[i * LANES + 3]) + Math.abs(out[i * LANES + 4]),
  );
  for (let pass = 0; pass < 2; pass++) busy = knownMean(busy, known, width, height, 2);
  for (let i = 0; i < n; i++) out[i * LANES + 8] = ((TEXTURE * ground) / detail) * busy[i];
  return out;
}

/** Mean of the known pixels in a square of (2 r + 1)²; 0 where there is none. */
export function knownMean(
  plane: Float32Array,
  known: Float32Array,
  width: number,
  height: number,
  r: number,
): Float32Array {
  const sums = new Float32Array(plane.length);
  const counts = new Float32Array(plane.length);
  for (let y = 0; y < height; y++) {
    let sum = 0;
    let count = 0;
    for (let x = -r; x < width; x++) {
      if (x + r < width) {
        const i = y * width + x + r;
        sum += known[i] * plane[i];
        count += known[i];
      }
      if (x - r - 1 >= 0) {
        const i = y * width + x - r - 1;
        sum -= known[i] * plane[i];
        count -= known[i];
      }
      if (x >= 0) {
        sums[y * width + x] = sum;
        counts[y * width + x] = count;
      }
    }
  }
  const out = new Float32Array(plane.length);
  const column = new Float64Array(width);
  const counted = new Float64Array(width);
  for (let y = -r; y < height; y++) {
    if (y + r < height) {
      for (let x = 0, i = (y + r) * width; x < width; x++, i++) {
        column[x] += sums[i];
        counted[x] += counts[i];
      }
    }
    if (y - r - 1 >= 0) {
      for (let x = 0, i = (y - r - 1) * width; x < width; x++, i++) {
        column[x] -= sums[i];
        counted[x] -= counts[i];
      }
    }
    if (y >= 0)
      for (let x = 0, i = y * width; x < width; x++, i++) out[i] = counted[x] > 0.5 ? column[x] / counted[x] : 0;
  }
  return out;
}
