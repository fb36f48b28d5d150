import { solveRows } from '../../../raster/solve.ts';
import type { Point } from '../../../mask/shapes.ts';
import type { Level } from '../layout/levels.ts';

/** A border of two grounds across a cover: y = f(x) in a frame along it. Coordinates are px of level 0 of the window. */
export interface Border {
  /** where the frame begins, and its direction (unit vector) */
  origin: Point;
  along: Point;
  /** coefficients of f, lowest first, in units of `unit` px */
  course: number[];
  unit: number;
  /** px from the frame's beginning to where the border leaves the cover again */
  length: number;
  /** px by which the picture's border lies off f where it enters and leaves the cover */
  offsets: [number, number];
  /** spread of the border seen outside the cover around f, px */
  roughness: number;
  /** how far outside the cover the border was followed, px */
  followed: [number, number];
  /** px over which one ground goes over into the other */
  softness: number;
}

const courseAt = (course: readonly number[], t: number) => course.reduceRight((sum, c) => sum * t + c, 0);

/** Signed distance of a place from a border, px: negative on the left of its direction. */
export function signedDistance(border: Border, x: number, y: number): number {
  const { origin, along, course, unit, length, offsets } = border;
  const dx = x - origin[0];
  const dy = y - origin[1];
  const u = dx * along[0] + dy * along[1];
  const v = -dx * along[1] + dy * along[0];
  const t = u / unit;
  // Beyond where it was followed it runs on straight.
  const low = -border.followed[0] / unit;
  const high = (length + border.followed[1]) / unit;
  const at = Math.min(high, Math.max(low, t));
  const slope = courseAt(
    course.slice(1).map((c, k) => c * (k + 1)),
    at,
  );
  const own = unit * (courseAt(course, at) + slope * (t - at));
  // What it is off by at both ends fades out towards the middle.
  const reach = 0.3 * length;
  const off =
    offsets[0] * Math.max(0, 1 - Math.max(0, u) / reach) +
    offsets[1] * Math.max(0, 1 - Math.max(0, length - u) / reach);
  return (v - own - off) / Math.sqrt(1 + slope * slope);
}

/** How far beside the frame and beyond the cover a border is looked for, as shares of the cover's size. */
const BESIDE = 0.4;
const BEYOND = 0.7;

/** Solves the weighted least squares of a polynomial. */
function polynomial(ts: number[], vs: number[], ws: number[], degree: number): number[] | null {
  const k = degree + 1;
  const a = Array.from({ length: k }, () => new Float64Array(k + 1));
  for (let n = 0; n < ts.length; n++) {
    for (let i = 0; i < k; i++) {
      for (let j = 0; j < k; j++) a[i][j] += ws[n] * ts[n] ** (i + j);
      a[i][k] += ws[n] * vs[n] * ts[n] ** i;
    }
  }
  for (let i = 0; i < k; i++) a[i][i] += 1e-9;
  return solveRows(a, 1e-12);
}

/** A place on the border: along the frame, beside it, and how far outside the cover. */
interface Sighting {
  u: number;
  v: number;
  out: number;
}

/** What tells two grounds apart at a pixel: 0 like the left, 1 like the right. */
export type Likeness = (level: Level, i: number) => number;

/** Looks across the frame, column by column, for the place that parts the two grounds best. */
function sightings(
  level: Level,
  scale: number,
  frame: Pick<Border, 'origin' | 'along' | 'length'>,
  likeness: Likeness,
  beyond: number,
  expected: ((u: number) => number) | null,
  beside: number,
  inset: number,
): Sighting[] {
  const { origin, along, length } = frame;
  const out: Sighting[] = [];
  const step = scale * Math.max(1, Math.round(beyond / scale / 90));
  const across = Math.round((2 * beside) / scale) + 1;
  const t = new Float32Array(across);
  const sure = new Uint8Array(across);
  for (let u = -beyond; u <= length + beyond; u += step) {
    if (u > inset && u < length - inset) continue;
    const middle = expected ? expected(u) : 0;
    let known = 0;
    for (let k = 0; k < across; k++) {
      const v = middle - beside + k * scale;
      const x = Math.floor((origin[0] + u * along[0] - v * along[1]) / scale);
      const y = Math.floor((origin[1] + u * along[1] + v * along[0]) / scale);
      sure[k] = 0;
      if (x < 0 || y < 0 || x >= level.width || y >= level.height) continue;
      const i = y * level.width + x;
      if (!level.known[i]) continue;
      sure[k] = 1;
      known++;
      t[k] = likeness(level, i);
    }
    if (known < 0.7 * across) continue;
    // Cost of a border before each place: what lies on the wrong side of it.
    let cost = 0;
    for (let k = 0; k < across; k++) if (sure[k]) cost += 1 - t[k];
    let best = cost;
    let at = 0;
    const costs = new Float32Array(across + 1);
    costs[0] = cost;
    for (let k = 0; k < across; k++) {
      if (sure[k]) cost += 2 * t[k] - 1;
      costs[k + 1] = cost;
      if (cost < best) {
        best = cost;
        at = k + 1;
      }
    }
    // Nothing is seen where one ground fills the column, or the best place hardly differs from the rest.
    if (at < 3 || at > across - 3 || best > 0.3 * Math.min(costs[0], costs[across]) + 1.5) continue;
    // Between the pixels, by how mixed the one at the border is.
    const v = middle - beside + (at - 0.5 + (sure[at] ? 0.5 - t[at] : 0)) * scale;
    out.push({ u, v, out: Math.max(0, u < length / 2 ? -u : u - length) });
  }
  return out;
}

/** A frame from where a border enters the cover to where it leaves it, in px of level 0. */
export interface Frame {
  enters: Point;
  leaves: Point;
}

/**
 * Follows a border outside the cover on both sides and carries it on across: a polynomial through what is seen of it, of the
 * least degree that does, seen coarsely first and then ever finer.
 *
 * @param levels from the finest on
 * @param at the coarsest to look at
 * @param size px of level 0 across the cover
 * @param inset px by which the frame reaches out of the cover at either end
 * @returns null where it cannot be followed on both sides
 * Source: continuing contours across a hole after Sun, Yuan, Jia & Shum, "Image Completion with Structure Propagation", 2005, in
 * spirit; fit and choice of degree are own work.
 */
export function followBorder(
  levels: readonly Level[],
  at: number,
  { enters, leaves }: Frame,
  size: number,
  likeness: Likeness,
  inset: number,
): Border | null {
  const length = Math.hypot(leaves[0] - enters[0], leaves[1] - enters[1]);
  if (length < 4) return null;
  const along: Point = [(leaves[0] - enters[0]) / length, (leaves[1] - enters[1]) / length];
  const frame = { origin: enters, along, length };
  let border: Border | null = null;
  for (let l = at; l >= 0; l--) {
    const scale = 2 ** l;
    const beyond = BEYOND * size;
    const known: Border | null = border;
    const expected = known && ((u: number) => -distanceAlong(known, u));
    const beside = known ? Math.max(6 * scale, 3 * known.roughness) : BESIDE * size;
    const seen = sightings(levels[l], scale, frame, likeness, beyond, expected, beside, inset);
    const next = fit(frame, seen, size, scale, border);
    if (!next) break;
    border = next;
    // The finest levels only add noise where the cover is large.
    if (scale <= size / 320) break;
  }
  return border;
}

/** How far beside the frame a border lies at a place along it, without what it is off by at its ends; with its sign turned. */
function distanceAlong(border: Border, u: number): number {
  const { origin, along } = border;
  return (
    signedDistance({ ...border, offsets: [0, 0] }, origin[0] + u * along[0], origin[1] + u * along[1]) *
    Math.sqrt(1 + slopeAt(border, u) ** 2)
  );
}

function slopeAt({ course, unit, followed, length }: Border, u: number): number {
  const t = Math.min((length + followed[1]) / unit, Math.max(-followed[0] / unit, u / unit));
  return courseAt(
    course.slice(1).map((c, k) => c * (k + 1)),
    t,
  );
}

function fit(
  frame: Pick<Border, 'origin' | 'along' | 'length'>,
  seen: Sighting[],
  size: number,
  scale: number,
  before: Border | null,
): Border | null {
  const left = seen.filter((s) => s.u < frame.length / 2);
  const right = seen.filter((s) => s.u >= frame.length / 2);
  if (left.length < 5 || right.length < 5) return null;
  const unit = frame.length;
  const ts = seen.map((s) => s.u / unit);
  const vs = seen.map((s) => s.v / unit);
  const near = seen.map((s) => Math.exp(-((s.out / (0.45 * size)) ** 2)));
  let best: { course: number[]; rms: number; score: number } | null = null;
  for (let degree = 1; degree <= 4; degree++) {
    let ws = near.slice();
    let course: number[] | null = null;
    let rms = 0;
    for (let round = 0; round < 6; round++) {
      course = polynomial(ts, vs, ws, degree);
      if (!course) break;
      const off = ts.map((t, n) => Math.abs(vs[n] - courseAt(course!, t)) * unit);
      const sorted = off.slice().sort((a, b) => a - b);
      const spread = Math.max(0.35 * scale, 1.5 * sorted[sorted.length >> 1]);
      ws = near.map((w, n) => w * (off[n] > 4 * spread ? 0 : (1 - (off[n] / (4 * spread)) ** 2) ** 2));
      const total = near.reduce((a, b) => a + b, 0);
      // What is off by far counts as far off, no more.
      rms = Math.sqrt(off.reduce((s, v, n) => s + near[n] * Math.min(v, 6 * spread) ** 2, 0) / total);
    }
    if (!course) continue;
    // Each degree more must pay: it bends freely where nothing is seen.
    const score = Math.max(rms, 0.3 * scale) * (1 + 0.22 * (degree - 1));
    if (!best || score < best.score) best = { course, rms, score };
  }
  if (!best) return null;
  const { course, rms } = best;
  const endOff = (list: Sighting[]) => {
    const close = list.filter((s) => s.out < Math.max(5 * scale, 0.06 * size));
    if (close.length < 3) return 0;
    const offs = close.map((s) => s.v - unit * courseAt(course, s.u / unit)).sort((a, b) => a - b);
    const middle = offs[offs.length >> 1];
    return Math.abs(middle) < Math.max(3 * rms, 2 * scale) ? middle : 0;
  };
  return {
    ...frame,
    course,
    unit,
    offsets: [endOff(left), endOff(right)],
    roughness: before ? Math.min(before.roughness, Math.max(rms, 0.3 * scale)) : Math.max(rms, 0.3 * scale),
    followed: [Math.max(...left.map((s) => s.out)), Math.max(...right.map((s) => s.out))],
    softness: 1,
  };
}
