import { median } from '../raster/luma.ts';
import { solveSymmetric } from '../raster/solve.ts';
import { adjugate, multiplied, nearestTurn, NO_TURN, rayOf, reachOf, seenAt, turnOf, type Camera } from './camera.ts';
import type { Pair } from './features.ts';

/** Size of a frame, px. */
export interface Size {
  width: number;
  height: number;
}

/** Focal lengths that are tried first, in half diagonals: from a wide angle to a long lens. */
const FOCALS = [0.7, 0.9, 1.15, 1.5, 1.9, 2.4, 3.1, 4, 5.5, 8];
/** Error from which on a match counts by its size and no more by its square, px; at first, and at the end. */
const ROBUST = { rough: 6, fine: 1.5 };
const STEPS = 40;
/** How far numbers are moved to see what that does: radians, share of the focal length, bending. */
const MOVED = [1e-6, 1e-6, 1e-6, 1e-6, 1e-5];
/** Bending that is held likely: it is only believed where matches ask for it. */
const BEND_HELD = 0.03;

/** How frames were taken, as far as they belong together. */
export interface Adjusted {
  /** by the order of frames; null for one that does not belong */
  cameras: Array<Camera | null>;
  /** root mean square of what matches differ by, px */
  error: number;
}

/** The frames that hang together with the one that has most in common with others; and in what order they are reached. */
function spanning(count: number, pairs: readonly Pair[]): Array<{ pair: Pair; from: number; to: number }> | null {
  const strength = Array.from({ length: count }, (_, n) =>
    pairs.reduce((s, p) => s + (p.from === n || p.to === n ? p.matches.length : 0), 0),
  );
  const first = strength.indexOf(Math.max(...strength));
  if (!(strength[first] > 0)) return null;
  const reached = new Set([first]);
  const out: Array<{ pair: Pair; from: number; to: number }> = [];
  for (;;) {
    let best: { pair: Pair; from: number; to: number } | null = null;
    for (const pair of pairs) {
      const [a, b] = [reached.has(pair.from), reached.has(pair.to)];
      if (a === b || (best && pair.matches.length <= best.pair.matches.length)) continue;
      best = a ? { pair, from: pair.from, to: pair.to } : { pair, from: pair.to, to: pair.from };
    }
    if (!best) return out;
    reached.add(best.to);
    out.push(best);
  }
}

/** The turn between two frames that a homography comes to with a focal length. */
function turnBetween(homography: readonly number[], a: Size, b: Size, focalA: number, focalB: number): number[] {
  const [ax, ay] = [a.width / 2 - 0.5, a.height / 2 - 0.5];
  const [bx, by] = [b.width / 2 - 0.5, b.height / 2 - 0.5];
  const toA = [focalA, 0, ax, 0, focalA, ay, 0, 0, 1];
  const fromB = [1 / focalB, 0, -bx / focalB, 0, 1 / focalB, -by / focalB, 0, 0, 1];
  const m = multiplied(fromB, multiplied(homography, toA));
  const scale = Math.cbrt(adjugate(m).determinant);
  return nearestTurn(m.map((value) => value / scale));
}

const robust = (e: number, most: number): number => (e <= most ? 1 : most / e);

/** Differences of the matches of a pair in px of both axes: what `from` sees, as `to` sees it. */
function differences(pair: Pair, a: Camera, b: Camera, out: Float64Array): void {
  const at = [0, 0];
  pair.matches.forEach((m, n) => {
    const seen = seenAt(b, rayOf(a, m.a[0], m.a[1]), at);
    out[2 * n] = seen ? at[0] - m.b[0] : 1e3;
    out[2 * n + 1] = seen ? at[1] - m.b[1] : 1e3;
  });
}

function costOf(pairs: readonly Pair[], cameras: ReadonlyArray<Camera | null>, most: number): number {
  let cost = 0;
  for (const pair of pairs) {
    const [a, b] = [cameras[pair.from], cameras[pair.to]];
    if (!a || !b) continue;
    const d = new Float64Array(2 * pair.matches.length);
    differences(pair, a, b, d);
    for (let n = 0; n < d.length; n += 2) {
      const e = Math.hypot(d[n], d[n + 1]);
      cost += e <= most ? e * e : most * (2 * e - most);
    }
  }
  return cost;
}

/** A camera with one of its numbers moved: turn about three axes, focal length, bending. */
function moved(camera: Camera, k: number, by: number): Camera {
  if (k < 3) {
    const axis: [number, number, number] = [0, 0, 0];
    axis[k] = by;
    return { ...camera, turn: multiplied(turnOf(axis), camera.turn) };
  }
  return k === 3 ? { ...camera, focal: camera.focal * (1 + by) } : { ...camera, bend: camera.bend + by };
}

/**
 * Refines turns, the focal length and the bending that all frames share, over all of them together (Levenberg–Marquardt with Huber's
 * weights; bundle adjustment as by Brown & Lowe 2007).
 */
export function refined(
  cameras: Array<Camera | null>,
  pairs: readonly Pair[],
  fixed: number,
  most: number,
): Array<Camera | null> {
  const free = cameras.flatMap((camera, n) => (camera && n !== fixed ? [n] : []));
  const size = 3 * free.length + 2;
  const own = pairs.filter((p) => cameras[p.from] && cameras[p.to]);
  let now = cameras;
  let cost = costOf(own, now, most);
  let damping = 1e-3;
  for (let step = 0; step < STEPS; step++) {
    const m = new Float64Array(size * size);
    const right = new Float64Array(size);
    for (const pair of own) {
      const [a, b] = [now[pair.from]!, now[pair.to]!];
      const d = new Float64Array(2 * pair.matches.length);
      differences(pair, a, b, d);
      const columns: Array<{ at: number; slope: Float64Array }> = [];
      const add = (at: number, k: number, camA: Camera, camB: Camera) => {
        const slope = new Float64Array(d.length);
        differences(pair, camA, camB, slope);
        for (let n = 0; n < d.length; n++) slope[n] = (slope[n] - d[n]) / MOVED[k];
        columns.push({ at, slope });
      };
      for (let k = 0; k < 3; k++) {
        const [i, j] = [free.indexOf(pair.from), free.indexOf(pair.to)];
        if (i >= 0) add(3 * i + k, k, moved(a, k, MOVED[k]), b);
        if (j >= 0) add(3 * j + k, k, a, moved(b, k, MOVED[k]));
      }
      for (const k of [3, 4]) add(size - 5 + k, k, moved(a, k, MOVED[k]), moved(b, k, MOVED[k]));
      for (let n = 0; n < d.length; n += 2) {
        const weight = robust(Math.hypot(d[n], d[n + 1]), most);
        for (const p of columns) {
          right[p.at] -= weight * (p.slope[n] * d[n] + p.slope[n + 1] * d[n + 1]);
          for (const q of columns)
            if (q.at <= p.at)
              m[p.at * size + q.at] += weight * (p.slope[n] * q.slope[n] + p.slope[n + 1] * q.slope[n + 1]);
        }
      }
    }
    // Without need a lens does not bend.
    const held = 1 / (BEND_HELD * BEND_HELD);
    const bend = now[fixed]!.bend;
    m[size * size - 1] += held;
    right[size - 1] -= held * bend;
    const damped = m.slice();
    for (let k = 0; k < size; k++) damped[k * size + k] *= 1 + damping;
    const change = solveSymmetric(damped, right, size);
    if (!change) break;
    const next = now.map((camera, n) => {
      if (!camera) return null;
      const at = free.indexOf(n);
      const turn =
        at < 0
          ? camera.turn
          : multiplied(turnOf([change[3 * at], change[3 * at + 1], change[3 * at + 2]]), camera.turn);
      const focal = camera.focal * Math.exp(Math.max(-0.5, Math.min(0.5, change[size - 2])));
      return { ...camera, turn, focal, bend: camera.bend + change[size - 1] };
    });
    const then = costOf(own, next, most);
    if (then + held * next[fixed]!.bend ** 2 < cost + held * bend * bend) {
      const done = cost - then < 1e-6 * cost;
      now = next;
      cost = then;
      damping = Math.max(1e-9, damping / 5);
      if (done) break;
    } else if ((damping *= 8) > 1e8) break;
  }
  return now;
}

/** Root mean square of what matches differ by, px; those that are plainly wrong left out. */
export function errorOf(cameras: ReadonlyArray<Camera | null>, pairs: readonly Pair[]): number {
  const errors: number[] = [];
  for (const pair of pairs) {
    const [a, b] = [cameras[pair.from], cameras[pair.to]];
    if (!a || !b) continue;
    const d = new Float64Array(2 * pair.matches.length);
    differences(pair, a, b, d);
    for (let n = 0; n < d.length; n += 2) errors.push(Math.hypot(d[n], d[n + 1]));
  }
  const most = 4 * Math.max(0.5, median(errors));
  const kept = errors.filter((e) => e <= most);
  return Math.sqrt(kept.reduce((s, e) => s + e * e, 0) / Math.max(1, kept.length));
}

/** The frame that the others are counted from: the first of those that hang together. */
export const firstOf = (cameras: ReadonlyArray<Camera | null>): number => cameras.findIndex((c) => c !== null);

/**
 * Finds how frames were taken that show parts of the same from one place: turns, one focal length and one bending.
 * @returns null where no two of them have anything in common
 */
export function adjust(sizes: readonly Size[], pairs: readonly Pair[]): Adjusted | null {
  const tree = spanning(sizes.length, pairs);
  if (!tree?.length) return null;
  const root = tree[0].from;
  let best: { cost: number; cameras: Array<Camera | null> } | null = null;
  for (const focal of FOCALS) {
    const cameras: Array<Camera | null> = sizes.map(() => null);
    const camera = (n: number, turn: readonly number[]): Camera => ({
      ...sizes[n],
      turn,
      focal: focal * reachOf(sizes[n]),
      bend: 0,
    });
    cameras[root] = camera(root, NO_TURN);
    for (const { pair, from, to } of tree) {
      const h = pair.from === from ? pair.homography : adjugate(pair.homography).matrix;
      const [a, b] = [focal * reachOf(sizes[from]), focal * reachOf(sizes[to])];
      cameras[to] = camera(to, multiplied(turnBetween(h, sizes[from], sizes[to], a, b), cameras[from]!.turn));
    }
    const after = refined(cameras, pairs, root, ROBUST.rough);
    const cost = costOf(pairs, after, ROBUST.rough);
    if (!best || cost < best.cost) best = { cost, cameras: after };
  }
  const cameras = refined(best!.cameras, pairs, root, ROBUST.fine);
  return { cameras, error: errorOf(cameras, pairs) };
}
