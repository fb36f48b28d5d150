import { doublePlane, halfPlane, quantile, type Plane } from '../raster/luma.ts';
import { blur } from '../raster/planes.ts';
import type { Point } from '../mask/shapes.ts';

/** px of the long side between which lines are looked for: larger pictures are halved, smaller ones doubled. */
const LEAST_SIDE = 840;
const MOST_SIDE = 2 * LEAST_SIDE;
/** Degrees to both sides within which a picture can be crooked; beyond, it is meant to be. */
const MOST_TURN = 12;
/** Degrees between angles that are tried, and by which an edge's own direction may differ from a line's. */
const STEP = 0.05;
const OWN = 2.5;
/** Blur before gradients, px, and the share of all px that are the strongest edges. */
const SOFT = 1;
const STRONGEST = 0.94;
/** px of blur by which what is a line is told from what is texture, across the line. */
const BROAD = 5;
/** Power by which what gathers on a line counts: one long line outweighs many short ones. */
const LONG = 1.5;
/** What upright lines count beside level ones. */
const UPRIGHT = 1;
/** Degrees beside a peak that belong to it. */
const BESIDE = 0.6;

/** How far a picture leans, as found from its own long lines. */
export interface Lean {
  /** degrees that it leans clockwise: turning it back by as many makes it level */
  degrees: number;
  /** 0 … 1: how much more the lines agree on this than on any other angle */
  certainty: number;
  /** what it was found from */
  from: 'level lines' | 'upright lines' | 'level and upright lines';
}

/** Certainty from which on an angle is proposed. */
export const CERTAIN = 0.42;

/** Strong edges, each with its place about the middle, strength, and how far its direction is off level or off upright, degrees. */
interface Edges {
  x: Float32Array;
  y: Float32Array;
  weight: Float32Array;
  off: Float32Array;
}

/** Edges that run about level (`across`) or about upright, thinned to their crest. */
function edgesOf({ width, height, data }: Plane, across: boolean): Edges {
  const soft = blur(data, width, height, SOFT);
  const found = { x: [] as number[], y: [] as number[], weight: [] as number[], off: [] as number[] };
  const strength = new Float32Array(width * height);
  for (let y = 2; y < height - 2; y++)
    for (let x = 2; x < width - 2; x++) {
      const i = y * width + x;
      strength[i] = Math.hypot(soft[i + 1] - soft[i - 1], soft[i + width] - soft[i - width]);
    }
  const least = Math.max(2, quantile(strength, STRONGEST));
  const along = across ? width : 1;
  for (let y = 3; y < height - 3; y++)
    for (let x = 3; x < width - 3; x++) {
      const i = y * width + x;
      if (strength[i] < least || strength[i] < strength[i - along] || strength[i] <= strength[i + along]) continue;
      const dx = soft[i + 1] - soft[i - 1];
      const dy = soft[i + width] - soft[i - width];
      // An edge runs at right angles to its gradient.
      const off =
        (across ? Math.atan2(-dx * Math.sign(dy), Math.abs(dy)) : Math.atan2(dy * Math.sign(dx), Math.abs(dx))) *
        DEGREES;
      if (Math.abs(off) > MOST_TURN + OWN) continue;
      // Where exactly the crest lies, by a parabola over three.
      const [a, b, c] = [strength[i - along], strength[i], strength[i + along]];
      const by = (a - c) / (2 * (a - 2 * b + c) || 1);
      found.x.push(x - width / 2 + (across ? 0 : by));
      found.y.push(y - height / 2 + (across ? by : 0));
      found.weight.push(Math.min(b, 3 * least));
      found.off.push(off);
    }
  return {
    x: Float32Array.from(found.x),
    y: Float32Array.from(found.y),
    weight: Float32Array.from(found.weight),
    off: Float32Array.from(found.off),
  };
}
const DEGREES = 180 / Math.PI;

/**
 * How well edges gather on lines of each angle: edges are added up along lines (a projection), and what stands out from its
 * neighbours, so that one long line outweighs many short ones.
 */
function gathering({ x, y, weight, off }: Edges, reach: number, across: boolean): Float32Array {
  const angles = Math.round((2 * MOST_TURN) / STEP) + 1;
  const out = new Float32Array(angles);
  const bins = 2 * reach + 4;
  const sums = new Float32Array(bins);
  for (let n = 0; n < angles; n++) {
    const angle = n * STEP - MOST_TURN;
    const [cos, sin] = [Math.cos(angle / DEGREES), Math.sin(angle / DEGREES)];
    sums.fill(0);
    for (let k = 0; k < x.length; k++) {
      const apart = (off[k] - angle) / OWN;
      if (apart > 2 || apart < -2) continue;
      const at = (across ? y[k] * cos - x[k] * sin : x[k] * cos + y[k] * sin) + reach + 1;
      const bin = Math.floor(at);
      if (bin < 0 || bin >= bins - 1) continue;
      const w = weight[k] * Math.exp(-apart * apart);
      sums[bin] += w * (bin + 1 - at);
      sums[bin + 1] += w * (at - bin);
    }
    const broad = blur(sums, bins, 1, BROAD);
    let score = 0;
    for (let b = 0; b < bins; b++) {
      const stands = sums[b] - broad[b];
      if (stands > 0) score += stands ** LONG;
    }
    out[n] = score;
  }
  return out;
}

/** The best angle of a list of scores, between steps; and how much it stands out from the rest. */
function peakOf(scores: Float32Array): { degrees: number; certainty: number } {
  let best = 1;
  for (let n = 1; n < scores.length - 1; n++) if (scores[n] > scores[best]) best = n;
  const [a, b, c] = [scores[best - 1], scores[best], scores[best + 1]];
  const curve = a - 2 * b + c;
  const by = curve < 0 ? (a - c) / (2 * curve) : 0;
  const degrees = (best + by) * STEP - MOST_TURN;
  // What only grows towards the end of the range leans by more, or is nothing.
  if (MOST_TURN - Math.abs(degrees) < BESIDE) return { degrees, certainty: 0 };
  const beside = Math.round(BESIDE / STEP);
  const rest = scores.filter((_, n) => Math.abs(n - best) > beside);
  const usual = quantile(rest, 0.5);
  const next = quantile(rest, 0.98);
  const certainty =
    b > 0 ? Math.max(0, Math.min(1, (b - next) / (b - usual + 1e-9))) * Math.min(1, b / (usual + 1e-9) / 4) : 0;
  return { degrees, certainty };
}

/**
 * How far a picture leans, from its own long lines: horizon, sea, courses, posts, a print's edge.
 *
 * @param picture brightness
 * @returns null where there is nothing to go by at all; a low certainty means that nothing in it is level
 * Source: projections of edges (Radon transform) as in published skew detection of documents; own weights.
 */
export function leanOf(picture: Plane): Lean | null {
  const { width, height } = picture;
  if (Math.max(width, height) > MOST_SIDE) return leanOf(halfPlane(picture));
  if (Math.min(width, height) < 32) return null;
  if (Math.max(width, height) <= LEAST_SIDE) return leanOf(doublePlane(picture));
  const reach = Math.ceil(Math.hypot(width, height) / 2);
  const scores = [true, false].map((across) => {
    const edges = edgesOf(picture, across);
    return gathering(edges, reach, across);
  });
  const both = Float32Array.from(scores[0], (v, n) => v + UPRIGHT * scores[1][n]);
  if (!both.some((v) => v > 0)) return null;
  const peak = peakOf(both);
  const at = Math.max(0, Math.min(both.length - 1, Math.round((peak.degrees + MOST_TURN) / STEP)));
  const share = scores[0][at] / (both[at] || 1);
  const from = share > 0.75 ? 'level lines' : share < 0.25 ? 'upright lines' : 'level and upright lines';
  return { ...peak, from };
}

/**
 * How far a line that should be level or upright leans, degrees clockwise; whichever it is nearer to.
 * @throws RangeError when both ends are one place
 */
export function leanOfLine([ax, ay]: Point, [bx, by]: Point): number {
  if (Math.hypot(bx - ax, by - ay) < 1) throw new RangeError('A line needs two ends.');
  const angle = Math.atan2(by - ay, bx - ax) * DEGREES;
  return angle - 90 * Math.round(angle / 90);
}
