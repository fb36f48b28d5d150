import { labInto } from '../tone/lab.ts';
import type { Raster } from '../raster/raster.ts';
import type { Contour } from '../repair/lift/contour.ts';

/** px on both sides of a cover's border that are looked at. */
export const REACH = 30;
/** Columns of a band: px from {@link REACH} inside to as far outside; column {@link REACH} lies on the border. */
export const WIDE = 2 * REACH + 1;

/**
 * What lies along a cover's border, laid straight: a row for each 2 px along it, a column for each px across. CIELAB; NaN where nothing
 * is known of it, beyond the picture, under another cover, or where the cover ends again.
 */
export interface Band {
  rows: number;
  contour: Contour;
  L: Float32Array;
  a: Float32Array;
  b: Float32Array;
  /** the same of the picture before, where that is known */
  before?: Pick<Band, 'L' | 'a' | 'b'>;
}

/** Planes of a window as they are read. */
export interface Window {
  after: Raster;
  before?: Raster;
  width: number;
  height: number;
  /** 1 under this cover, 2 where pixels say nothing of it */
  what: Uint8Array;
}

const PLANES = ['L', 'a', 'b'] as const;

/** One channel of a place, bilinear, 0 to 255. */
function channelAt({ data, channels, depth, width }: Raster, i: number, fx: number, fy: number, c: number): number {
  const p = i * channels + c;
  const down = width * channels;
  const upper = data[p] + (data[p + channels] - data[p]) * fx;
  const lower = data[p + down] + (data[p + down + channels] - data[p + down]) * fx;
  const value = upper + (lower - upper) * fy;
  return depth === 16 ? value / 257 : value;
}

/** The colour that was read last, 0 to 255. */
const colour = [0, 0, 0];

/** Reads the colour of a place, bilinear. @returns whether it is the one that was read before */
function read(raster: Raster, i: number, fx: number, fy: number): boolean {
  let same = true;
  for (let c = 0; c < 3; c++) {
    const v = raster.channels < 3 && c ? colour[0] : channelAt(raster, i, fx, fy, c);
    if (v !== colour[c]) same = false;
    colour[c] = v;
  }
  return same;
}

/** Reads the band along a contour of a window. */
export function bandAlong({ after, before, width, height, what }: Window, contour: Contour): Band {
  const { count, x, y, nx, ny } = contour;
  const plane = () => new Float32Array(count * WIDE).fill(NaN);
  const band: Band = { rows: count, contour, L: plane(), a: plane(), b: plane() };
  if (before) band.before = { L: plane(), a: plane(), b: plane() };
  for (let row = 0; row < count; row++) {
    // From the border inwards as long as it is covered, then outwards as long as it is not.
    for (const step of [-1, 1]) {
      for (let d = step < 0 ? 0 : 1; d <= REACH; d++) {
        const u = x[row] + step * d * nx[row] - 0.5;
        const v = y[row] + step * d * ny[row] - 0.5;
        if (!(u >= 0 && v >= 0 && u < width - 1 && v < height - 1)) break;
        const i = Math.floor(v) * width + Math.floor(u);
        const near = Math.round(v) * width + Math.round(u);
        const other = what[near] === 2 || (step < 0 ? !what[near] : what[near] === 1);
        if (other && (d > 2 || what[near] === 2)) break;
        const k = row * WIDE + REACH + step * d;
        const [fx, fy] = [u - Math.floor(u), v - Math.floor(v)];
        read(after, i, fx, fy);
        labInto(band, k, colour[0], colour[1], colour[2]);
        if (!before || !band.before) continue;
        // Beside a cover nothing was changed.
        if (read(before, i, fx, fy)) for (const of of PLANES) band.before[of][k] = band[of][k];
        else labInto(band.before, k, colour[0], colour[1], colour[2]);
      }
    }
  }
  return band;
}

/** CIELAB of a stretch of a row. */
export type Lab = [number, number, number];

/** Running sums along each row, and how many are known. */
interface Sums {
  known: Uint8Array;
  of: Float32Array[];
}
const summed = new WeakMap<Float32Array, Sums>();
function sumsOf(planes: Pick<Band, 'L' | 'a' | 'b'>): Sums {
  const ready = summed.get(planes.L);
  if (ready) return ready;
  const rows = planes.L.length / WIDE;
  const stride = WIDE + 1;
  const known = new Uint8Array(rows * stride);
  const list = [planes.L, planes.a, planes.b];
  const of = list.map(() => new Float32Array(rows * stride));
  for (let row = 0; row < rows; row++)
    for (let k = 0; k < WIDE; k++) {
      const [from, to] = [row * WIDE + k, row * stride + k];
      const there = planes.L[from] === planes.L[from];
      known[to + 1] = known[to] + (there ? 1 : 0);
      for (let c = 0; c < 3; c++) of[c][to + 1] = of[c][to] + (there ? list[c][from] : 0);
    }
  const sums = { known, of };
  summed.set(planes.L, sums);
  return sums;
}

/** Mean of columns `from` to `to` (px from the border, below 0 inside) of a row; null where fewer than half are known. */
export function meanAt(planes: Pick<Band, 'L' | 'a' | 'b'>, row: number, from: number, to: number): Lab | null {
  const { known, of } = sumsOf(planes);
  const at = row * (WIDE + 1) + REACH;
  const [first, last] = [at + Math.max(-REACH, from), at + Math.min(REACH, to) + 1];
  const n = known[last] - known[first];
  if (last <= first || 2 * n <= to - from) return null;
  return [(of[0][last] - of[0][first]) / n, (of[1][last] - of[1][first]) / n, (of[2][last] - of[2][first]) / n];
}

/** How far tone jumps on the border itself, from 2 px inside to 2 px outside, row by row; NaN where it is not known. */
export function jumpsOf(band: Band): Float32Array {
  return Float32Array.from({ length: band.rows }, (_, row) => {
    const [inside, outside] = [meanAt(band, row, -3, -1), meanAt(band, row, 1, 3)];
    return inside && outside ? Math.hypot(...inside.map((v, c) => v - outside[c])) : NaN;
  });
}

/** Box around samples of a contour, px of the window. */
export function boxOfRows({ contour }: Pick<Band, 'contour'>, from: number, to: number, grown: number) {
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let k = from; k <= to; k++) {
    const i = ((k % contour.count) + contour.count) % contour.count;
    x0 = Math.min(x0, contour.x[i]);
    y0 = Math.min(y0, contour.y[i]);
    x1 = Math.max(x1, contour.x[i]);
    y1 = Math.max(y1, contour.y[i]);
  }
  const [x, y] = [Math.floor(x0 - grown), Math.floor(y0 - grown)];
  return { x, y, width: Math.ceil(x1 + grown) - x, height: Math.ceil(y1 + grown) - y };
}
