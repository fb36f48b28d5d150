import { halfPlane, type Plane } from '../raster/luma.ts';
import { rayOf, seenAt, type Camera } from './camera.ts';
import type { Match, Pair } from './features.ts';

/** px of half a side of what is compared, and how often it is moved at the most. */
const HALF = 9;
const MOVES = 12;
/** px from where a match was held to be that it may turn out to lie, and how alike both have to be. */
const FARTHEST = 6;
const ALIKE = 0.8;
/** Matches of a pair that have to settle. */
const ENOUGH = 6;

/** Brightness between px; NaN beyond. */
function toneAt({ width, height, data }: Plane, x: number, y: number): number {
  const [u, v] = [Math.floor(x), Math.floor(y)];
  if (u < 0 || v < 0 || u + 1 >= width || v + 1 >= height) return NaN;
  const [fx, fy] = [x - u, y - v];
  const i = v * width + u;
  const upper = data[i] + (data[i + 1] - data[i]) * fx;
  const lower = data[i + width] + (data[i + width + 1] - data[i + width]) * fx;
  return upper + (lower - upper) * fy;
}

/** Evens a list to a mean of 0 and a length of 1, and says how long it was; 0 where it does not vary. */
function evened(list: Float64Array): number {
  let mean = 0;
  for (const v of list) mean += v;
  mean /= list.length;
  let square = 0;
  for (let k = 0; k < list.length; k++) square += (list[k] -= mean) ** 2;
  const scale = Math.sqrt(square);
  if (!(scale > 1e-6)) return 0;
  for (let k = 0; k < list.length; k++) list[k] /= scale;
  return scale;
}

/** What of a list goes neither into its mean nor along another list of length 1: what evening leaves of a slope. */
function besides(list: Float64Array, along: Float64Array): void {
  let [mean, share] = [0, 0];
  for (let k = 0; k < list.length; k++) {
    mean += list[k];
    share += list[k] * along[k];
  }
  mean /= list.length;
  for (let k = 0; k < list.length; k++) list[k] -= mean + share * along[k];
}

/** Where in one plane what is around a place of another lies: moved to where both agree best, seen as the cameras have it. */
function settled(
  a: Plane,
  b: Plane,
  by: number,
  from: Camera,
  to: Camera,
  match: Match,
): { b: [number, number]; r: number } | null {
  const side = 2 * HALF + 1;
  const own = new Float64Array(side * side);
  const places = new Float64Array(2 * own.length);
  const at = [0, 0];
  // Places are those of whole frames; of a halved one every other px.
  const whole = (x: number) => (x + 0.5) * by - 0.5;
  const part = (x: number) => (x + 0.5) / by - 0.5;
  const [ax, ay] = match.a.map(part);
  for (let v = -HALF, k = 0; v <= HALF; v++)
    for (let u = -HALF; u <= HALF; u++, k++) {
      own[k] = toneAt(a, ax + u, ay + v);
      if (!(own[k] === own[k]) || !seenAt(to, rayOf(from, whole(ax + u), whole(ay + v)), at)) return null;
      places[2 * k] = part(at[0]);
      places[2 * k + 1] = part(at[1]);
    }
  if (!evened(own)) return null;
  const middle = 2 * ((own.length - 1) / 2);
  const [mx, my] = match.b.map(part);
  let [dx, dy] = [mx - places[middle], my - places[middle + 1]];
  const [sx, sy] = [dx, dy];
  const other = new Float64Array(own.length);
  const [gx, gy] = [new Float64Array(own.length), new Float64Array(own.length)];
  let r = 0;
  for (let move = 0; move < MOVES; move++) {
    for (let k = 0; k < own.length; k++) {
      const [x, y] = [places[2 * k] + dx, places[2 * k + 1] + dy];
      other[k] = toneAt(b, x, y);
      gx[k] = toneAt(b, x + 0.5, y) - toneAt(b, x - 0.5, y);
      gy[k] = toneAt(b, x, y + 0.5) - toneAt(b, x, y - 0.5);
      if (!(gx[k] === gx[k] && gy[k] === gy[k] && other[k] === other[k])) return null;
    }
    const scale = evened(other);
    if (!scale) return null;
    // The slopes of what is compared: what tone and contrast take up is no part of them.
    besides(gx, other);
    besides(gy, other);
    let [xx, yy, xy, ex, ey] = [0, 0, 0, 0, 0];
    r = 0;
    for (let k = 0; k < own.length; k++) {
      r += other[k] * own[k];
      const [p, q] = [gx[k] / scale, gy[k] / scale];
      const e = own[k] - other[k];
      xx += p * p;
      yy += q * q;
      xy += p * q;
      ex += p * e;
      ey += q * e;
    }
    const det = xx * yy - xy * xy;
    if (!(det > 1e-4 * (xx + yy) ** 2)) return null;
    const [mx2, my2] = [(yy * ex - xy * ey) / det, (xx * ey - xy * ex) / det];
    dx += mx2;
    dy += my2;
    if (Math.hypot(dx - sx, dy - sy) > FARTHEST) return null;
    if (Math.hypot(mx2, my2) < 0.01) break;
  }
  return r < ALIKE ? null : { b: [whole(places[middle] + dx), whole(places[middle + 1] + dy)], r };
}

/** A plane halved so many times. */
export function halved(plane: Plane, times: number): Plane {
  let out = plane;
  for (let n = 0; n < times; n++) out = halfPlane(out);
  return out;
}

/**
 * Settles matches to parts of a px: what is around each place, as the cameras see it in the other frame, is moved to where both agree
 * best, first in halved frames and then in whole ones. What does not settle is left out, unless too little of a pair would be left.
 * Source: Lucas & Kanade 1981.
 */
export function settledPairs(
  lumas: readonly Plane[],
  cameras: ReadonlyArray<Camera | null>,
  pairs: readonly Pair[],
): Pair[] {
  const [width, height] = [Math.max(...lumas.map((p) => p.width)), Math.max(...lumas.map((p) => p.height))];
  const halvings = Math.max(0, Math.round(Math.log2(Math.max(width, height) / 1400)));
  const levels = [...new Set([halvings, Math.max(0, halvings - 1), 0])];
  const kept = pairs.filter((p) => cameras[p.from] && cameras[p.to]);
  let now: Pair[] = kept;
  for (const level of levels) {
    const planes = lumas.map((plane) => halved(plane, level));
    now = now.map((pair) => ({
      ...pair,
      matches: pair.matches.flatMap((match) => {
        const found = settled(
          planes[pair.from],
          planes[pair.to],
          2 ** level,
          cameras[pair.from]!,
          cameras[pair.to]!,
          match,
        );
        return found ? [{ ...match, b: found.b }] : [];
      }),
    }));
  }
  // What cannot be settled is better kept roughly than a frame let go that hangs on it.
  return now.map((pair, n) => (pair.matches.length >= ENOUGH ? pair : kept[n]));
}
