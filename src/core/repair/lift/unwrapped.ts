import type { Contour } from './contour.ts';

/** px that are looked at on both sides of a contour. */
export const REACH = 110;
/** Columns of an unwrapped band. */
export const COLUMNS = 2 * REACH + 1;

/**
 * The surroundings of a contour laid straight: a row for each sample, a column for each px from {@link REACH} inside to as far
 * outside; NaN where nothing is known. Planes are in the order of the image's channels.
 */
export interface Unwrapped {
  rows: number;
  channels: number;
  planes: Float32Array[];
}

/** Image of four lanes and what of it is unknown. */
export interface Known {
  image: Float32Array;
  width: number;
  height: number;
  channels: 1 | 3;
  /** 1 where pixels say nothing of this place: other faults, gaps */
  unknown: Uint8Array;
}

/** Reads the band around a contour, bilinear. */
export function unwrap(known: Known, { count, x, y, nx, ny }: Contour): Unwrapped {
  const { image, width, height, channels, unknown } = known;
  const columns = COLUMNS;
  const planes = Array.from({ length: channels }, () => new Float32Array(count * columns).fill(NaN));
  const [right, bottom] = [width - 1, height - 1];
  for (let row = 0; row < count; row++) {
    let u = x[row] - nx[row] * REACH - 0.5;
    let v = y[row] - ny[row] * REACH - 0.5;
    for (let k = 0; k < columns; k++, u += nx[row], v += ny[row]) {
      if (!(u >= 0 && v >= 0 && u < right && v < bottom)) continue;
      const [x0, y0] = [u | 0, v | 0];
      const i = y0 * width + x0;
      if (unknown[i] || unknown[i + 1] || unknown[i + width] || unknown[i + width + 1]) continue;
      const [fx, fy] = [u - x0, v - y0];
      for (let c = 0; c < channels; c++) {
        const p = 4 * i + c;
        const upper = image[p] + (image[p + 4] - image[p]) * fx;
        const lower = image[p + 4 * width] + (image[p + 4 * width + 4] - image[p + 4 * width]) * fx;
        planes[c][row * columns + k] = upper + (lower - upper) * fy;
      }
    }
  }
  return { rows: count, channels, planes };
}

/** Sums from the left, and how many are known, so that the mean of any stretch of a row costs the same. */
export interface Sums {
  sums: Float64Array[];
  known: Int32Array;
}

/** Running sums of a band. */
export function sumsOf({ rows, channels, planes }: Unwrapped): Sums {
  const stride = COLUMNS + 1;
  const known = new Int32Array(rows * stride);
  const sums = planes.map(() => new Float64Array(rows * stride));
  for (let row = 0; row < rows; row++) {
    for (let k = 0; k < COLUMNS; k++) {
      const [from, to] = [row * COLUMNS + k, row * stride + k];
      const there = planes[0][from] === planes[0][from];
      known[to + 1] = known[to] + (there ? 1 : 0);
      for (let c = 0; c < channels; c++) sums[c][to + 1] = sums[c][to] + (there ? planes[c][from] : 0);
    }
  }
  return { sums, known };
}

/** Mean of the columns `from` to `to` (not included) of a row; false where fewer than half of them are known. */
export function meanOf({ sums, known }: Sums, row: number, from: number, to: number, out: number[]): boolean {
  if (from < 0 || to > COLUMNS) return false;
  const at = row * (COLUMNS + 1);
  const n = known[at + to] - known[at + from];
  if (n === 0 || 2 * n < to - from) return false;
  for (let c = 0; c < sums.length; c++) out[c] = (sums[c][at + to] - sums[c][at + from]) / n;
  return true;
}
