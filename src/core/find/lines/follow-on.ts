import { median, type Plane } from '../../raster/luma.ts';
import type { Point } from '../../mask/shapes.ts';
import { contrastAt } from '../strand/run-on.ts';

/** px of a step, and how far a line may turn in one, radians, and in what fractions that is tried. */
const STEP = 1.5;
const BEND = 0.9;
const TRIED = 6;
/** px over which the direction of an end is taken: it may turn sharply close by. */
const BACK = 6;
/** Levels of contrast from which a line is plain enough to be followed, and the share of it that is the same line. */
const PLAIN = 25;
const SAME = 0.6;
/** px that an end is followed at the most, and that may be missing where it goes straight on, if as many follow again. */
const FARTHEST = 120;
const MISSING = 16;
const AGAIN = 8;

/** A place and a direction. */
interface Tip {
  at: Point;
  angle: number;
}

/** The next place of a line, a step on, in the direction in which it is plainest; null where it is not seen. */
function nextOf(seen: (at: Point, angle: number) => number, { at, angle }: Tip, least: number): Tip | null {
  let best: Tip | null = null;
  let most = least;
  for (let k = -TRIED; k <= TRIED; k++) {
    const way = angle + (k / TRIED) * BEND;
    const there: Point = [at[0] + STEP * Math.cos(way), at[1] + STEP * Math.sin(way)];
    // Of two that are as plain the straighter.
    const value = seen(there, way) * (1 - 0.02 * Math.abs(k));
    if (value < most) continue;
    most = value;
    best = { at: there, angle: way };
  }
  return best;
}

/** Where a line is seen again straight ahead, after some px without; null where it is not. */
function across(seen: (at: Point, angle: number) => number, line: readonly Point[], least: number): Tip | null {
  // Its last places may turn aside already, where there is nothing to go by.
  const at = line[Math.max(0, line.length - 3)];
  const far = line.findLast(([x, y]) => Math.hypot(x - at[0], y - at[1]) >= 2 * BACK) ?? line[0];
  const angle = Math.atan2(at[1] - far[1], at[0] - far[0]);
  const ahead = (t: number): Point => [at[0] + t * Math.cos(angle), at[1] + t * Math.sin(angle)];
  for (let t = 2 * STEP; t <= MISSING; t += STEP) {
    let hits = 0;
    while (hits < AGAIN && seen(ahead(t + hits), angle) >= least) hits++;
    if (hits === AGAIN) return { at: ahead(t), angle };
  }
  return null;
}

/** Points on which a line goes on beyond its last one. */
function beyond(plane: Plane, points: readonly Point[], width: number): Point[] {
  const end = points[points.length - 1];
  const far = points.findLast(([x, y]) => Math.hypot(x - end[0], y - end[1]) >= BACK);
  if (!far) return [];
  const read = (x: number, y: number) => plane.data[Math.floor(y) * plane.width + Math.floor(x)];
  const level = (at: Point, angle: number) =>
    contrastAt(read, at, [-Math.sin(angle), Math.cos(angle)], Math.max(2, width));
  const own = points.slice(-24).map((p, i, list) => {
    const [q, r] = [list[Math.max(0, i - 3)], list[Math.min(list.length - 1, i + 3)]];
    return level(p, Math.atan2(r[1] - q[1], r[0] - q[0]));
  });
  const usual = median(own);
  if (!(Math.abs(usual) >= PLAIN)) return [];
  const sign = Math.sign(usual);
  const margin = width / 2 + 5;
  const inside = ([x, y]: Point) => x > margin && y > margin && x < plane.width - margin && y < plane.height - margin;
  const seen = (at: Point, angle: number) => (inside(at) ? sign * level(at, angle) : 0);
  const least = SAME * Math.abs(usual);
  const out: Point[] = [];
  let tip: Tip | null = { at: end, angle: Math.atan2(end[1] - far[1], end[0] - far[0]) };
  while (tip && out.length * STEP < FARTHEST) {
    tip = nextOf(seen, tip, least) ?? across(seen, [...points.slice(-20), ...out], least);
    if (!tip) break;
    const [x, y]: Point = tip.at;
    // A line that comes back to itself is at its end.
    const before = [...points, ...out].slice(0, -Math.ceil((2 * width + 4) / STEP));
    if (before.some((p) => Math.hypot(p[0] - x, p[1] - y) < width / 2 + 1)) break;
    out.push(tip.at);
  }
  // One that goes on and on is a line of the picture that the find was a piece of.
  return out.length * STEP < FARTHEST ? out : [];
}

/**
 * A line with what goes on from both its ends: a hair that curls up there, a scratch after a gap. Followed by contrast alone, for what
 * is bent too sharply or is too short to be found by itself.
 * @param points of a line about a px apart; `width` px across
 * @returns the points, longer where the line goes on
 * Source: own.
 */
export function followOn(plane: Plane, points: readonly Point[], width: number): Point[] {
  const after = beyond(plane, points, width);
  const before = beyond(plane, points.slice().reverse(), width).reverse();
  return [...before, ...points, ...after];
}
