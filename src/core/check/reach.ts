import { medianOf, quantile } from '../raster/luma.ts';
import { COLUMNS, REACH, unwrap, type Known } from '../repair/lift/unwrapped.ts';
import type { Contour } from '../repair/lift/contour.ts';

/** Where a fault really ends, beside where it was marked; with a spread of Infinity where that cannot be told. */
export interface Ends {
  /** px outwards from the marked edge to where nothing of it is seen any more */
  reach: number;
  /** px outwards from the marked edge to its own, where half of it is left; below 0 inside the mark */
  edge: number;
  /** px by which its edge is blurred, standard deviation */
  blur: number;
  /** how much what is around scatters, as a share of how far the fault stands out of it */
  spread: number;
  /** how far the fault stands out of what is around, levels of 255 */
  contrast: number;
  /** whether it is as thin as a strand */
  thin?: boolean;
}

/** px along an edge that are taken together. */
const SECTOR = 40;
/** px from the edge at which what is around is read, tried one after the other; and px over which. */
const AROUND = [12, 20, 30, 44, 62, 84];
const OVER = 8;
/** Shares between which an edge tells its blur, and deviations after which 2 % is left of it (of a blurred step). */
const LOW = 0.08;
const HIGH = 0.92;
const GONE = 2.05;
/** Spread beyond which nothing is sure. */
export const MOST_SPREAD = 0.35;
/** Spread up to which the reach is found to 2 px (`npm run bench:fit`). */
export const CLEAR_SPREAD = 0.15;
/** Stretches of one contour that are looked at, at most. */
const MOST = 40;
/** Levels by which a stretch has to stand out for it to say anything. */
const LEAST = 4;
/** And for an end of it to be missed where none is found. */
const CLEARLY = 8;

let list = new Float32Array(1024);

/** Median of a plane over rows and columns; NaN where less than a quarter is known. */
function middle(plane: Float32Array, from: number, to: number, left: number, right: number): number {
  const [first, end] = [Math.max(0, left), Math.min(COLUMNS, right)];
  if (list.length < (to - from) * (right - left)) list = new Float32Array((to - from) * (right - left));
  let n = 0;
  for (let row = from; row < to; row++)
    for (let k = row * COLUMNS + first; k < row * COLUMNS + end; k++) {
      const v = plane[k];
      if (v === v) list[n++] = v;
    }
  return n && 4 * n >= (to - from) * (right - left) ? medianOf(list, n) : NaN;
}

/** One stretch of an edge: how much of the fault each px outwards shows, how far it stands out, and how much its surroundings scatter. */
interface Stretch {
  /** share by px from −inside to +outside, NaN where unknown */
  share: Float32Array;
  contrast: number;
  spread: number;
}

/** How an edge looks along a contour, stretch by stretch. */
export interface Edges {
  bands: Array<{ rows: number; planes: Float32Array[] }>;
  /** px inside the marked edge at which the fault is surely itself */
  core: number;
  /** px that it may reach at most: farther off it would be something else */
  most: number;
}

/** Inverse of the normal distribution. Source: Acklam's rational approximation, from memory; its middle part alone, for 0.02 … 0.98. */
export function probit(p: number): number {
  const a = [
    -39.6968302866538, 220.946098424521, -275.928510446969, 138.357751867269, -30.6647980661472, 2.50662827745924,
  ];
  const b = [-54.4760987982241, 161.585836858041, -155.698979859887, 66.8013118877197, -13.2806815528857];
  const q = p - 0.5;
  const r = q * q;
  const above = a.reduce((s, v) => s * r + v, 0) * q;
  return above / (b.reduce((s, v) => s * r + v, 0) * r + 1);
}

/** Medians of single columns of stretches, each worked out once however far off what is around is read. */
const columns = new WeakMap<Float32Array, Map<number, Float32Array>>();
function columnsOf(plane: Float32Array, from: number, to: number): (column: number) => number {
  const known = columns.get(plane) ?? new Map<number, Float32Array>();
  columns.set(plane, known);
  // Infinity where it was not asked for yet.
  const own = known.get(from) ?? new Float32Array(COLUMNS).fill(Infinity);
  known.set(from, own);
  return (column) =>
    own[column] === Infinity ? (own[column] = middle(plane, from, to, column, column + 1)) : own[column];
}

/** Stretches of an edge with what is around read `at` px outside. */
function stretchesAt({ bands, core }: Edges, at: number): Stretch[] {
  const out: Stretch[] = [];
  for (const { rows, planes } of bands) {
    const step = Math.max(4, Math.min(SECTOR / 2, rows));
    const every = Math.max(1, Math.ceil(rows / step / MOST));
    for (let from = 0; from + step <= rows; from += every * step) {
      const to = from + step;
      const around = planes.map((p) => middle(p, from, to, REACH + at, REACH + at + OVER));
      const inside = planes.map((p) => middle(p, from, to, REACH - core - 1, REACH - core + 1));
      if (around.some(Number.isNaN) || inside.some(Number.isNaN)) continue;
      const change = inside.map((v, c) => v - around[c]);
      const size = change.reduce((s, v) => s + v * v, 0);
      const contrast = Math.sqrt(size / planes.length);
      if (contrast < LEAST) continue;
      const share = new Float32Array(core + at + OVER);
      const medians = planes.map((p) => columnsOf(p, from, to));
      for (let d = -core; d < at + OVER; d++) {
        let along = 0;
        for (let c = 0; c < medians.length; c++) along += (medians[c](REACH + d) - around[c]) * change[c];
        share[d + core] = along / size;
      }
      const off: number[] = [];
      for (let row = from; row < to; row++)
        for (let k = REACH + at; k < REACH + at + OVER; k += 2) {
          let along = 0;
          planes.forEach((p, c) => (along += (p[row * COLUMNS + k] - around[c]) * change[c]));
          if (along === along) off.push(Math.abs(along / size));
        }
      out.push({ share, contrast, spread: off.length ? 1.4826 * quantile(off, 0.5) : Infinity });
    }
  }
  return out;
}

/** Median by weight. */
function weighted(list: Array<[number, number]>): number {
  list.sort((a, b) => a[0] - b[0]);
  const half = list.reduce((s, [, w]) => s + w, 0) / 2;
  let sum = 0;
  return list.find(([, w]) => (sum += w) >= half)?.[0] ?? NaN;
}

/** Blurred step through so many shares that fall outwards: a line through their probits, weighted by how much each tells. */
function blurredStep(
  shareOf: (i: number) => number,
  count: number,
  core: number,
): { edge: number; blur: number } | null {
  let [w, wx, wy, wxx, wxy] = [0, 0, 0, 0, 0];
  let least = Infinity;
  for (let i = 0; i < count; i++) {
    // It can only fall outwards: what rises again belongs to something else.
    least = Math.min(least, shareOf(i));
    const a = Math.min(0.98, Math.max(0.02, least));
    if (a <= LOW) break;
    if (a >= HIGH) continue;
    const z = probit(a);
    const weight = Math.exp(-z * z);
    const x = i - core + 0.5;
    w += weight;
    wx += weight * x;
    wy += weight * z;
    wxx += weight * x * x;
    wxy += weight * x * z;
  }
  const apart = w * wxx - wx * wx;
  if (w === 0) return null;
  // A single px between both sides: as sharp as can be.
  if (apart < 1e-6 * w * w) return { edge: wx / w, blur: 0.5 };
  const slope = (w * wxy - wx * wy) / apart;
  if (slope >= -0.02) return null;
  return { edge: wx / w + wy / w / -slope, blur: Math.max(0.3, -1 / slope) };
}

/**
 * Measures where a fault ends: its departure from what is around, outwards from the edge as it was marked, down to where 2 % of it
 * is left. Null where nothing stands out.
 * Source: own, after the edge of a blurred step; median along stretches of the edge.
 */
export function endsOf(edges: Edges): Ends | null {
  let stands = false;
  for (const at of AROUND) {
    const stretches = stretchesAt(edges, at);
    if (!stretches.length) break;
    stands ||= at === AROUND[0] && stretches.some((s) => s.contrast >= CLEARLY);
    const shareOf = (i: number) =>
      weighted(
        stretches.flatMap((s): Array<[number, number]> =>
          s.share[i] === s.share[i] ? [[s.share[i], s.contrast]] : [],
        ),
      );
    const step = blurredStep(shareOf, edges.core + at + OVER, edges.core);
    if (!step) continue;
    const spread = weighted(stretches.map((s): [number, number] => [s.spread, s.contrast]));
    const reach = step.edge + GONE * step.blur;
    if (reach > edges.most) break;
    // What is around was read beyond its end: nothing more is to be learned farther off.
    if (reach < at - 2) {
      const contrast = weighted(stretches.map((s): [number, number] => [s.contrast, s.contrast]));
      return { reach, edge: step.edge, blur: step.blur, spread, contrast };
    }
  }
  return stands ? { reach: 0, edge: 0, blur: 0, spread: Infinity, contrast: 0 } : null;
}

/** Levels of 255 by which what is left of a blurred edge still differs from what is around, so many px outwards from the mark. */
export const leftAt = ({ edge, blur, contrast }: Ends, d: number): number =>
  contrast / (1 + Math.exp((1.702 * (d - edge)) / Math.max(0.3, blur)));

/** Bands around contours, to be measured by {@link endsOf}. */
export const edgesAlong = (known: Known, contours: readonly Contour[], how: Omit<Edges, 'bands'>): Edges => ({
  bands: contours.map((c) => unwrap(known, c)),
  ...how,
});
