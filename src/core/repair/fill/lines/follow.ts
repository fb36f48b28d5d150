import { median } from '../../../raster/luma.ts';
import type { Point } from '../../../mask/shapes.ts';
import { contrastAt } from '../../../find/strand/run-on.ts';

/** px of a step, and px back over which the direction of a line is taken. */
const STEP = 3;
const BACK = 48;
/** px that may be missing of a line, as behind a post, and as many steps in a row in which it is seen beyond. */
const MISSING = 72;
const AGAIN = 6;
/** px aside of where it was going, and share of what was missing, by which a line is looked for. */
const ASIDE = { px: 1, share: 0.3 };
/** Share of its usual contrast that counts as the same line, and px that it is followed at the most. */
const SAME = 0.45;
const FARTHEST = 12_000;

/** A line in a plane: what is read at a place, and whether it counts there. */
export interface Ground {
  read(x: number, y: number): number;
  isKnown(x: number, y: number): boolean;
}

/** Where a line was going at its end: unit vector; null where it is too short to tell. */
function headingOf(points: readonly Point[]): Point | null {
  const end = points[points.length - 1];
  const far = points.findLast(([x, y]) => Math.hypot(x - end[0], y - end[1]) >= BACK) ?? points[0];
  const length = Math.hypot(end[0] - far[0], end[1] - far[1]);
  return length < BACK / 3 ? null : [(end[0] - far[0]) / length, (end[1] - far[1]) / length];
}

/**
 * A line followed from its last point on, by its contrast, over gaps too.
 * @param points at least some 20 px of it, in order
 * @param width px across
 * @returns the points, longer by what follows
 * Source: own.
 */
export function followed({ read, isKnown }: Ground, points: readonly Point[], width: number): Point[] {
  const out = points.slice();
  const heading = headingOf(out);
  if (!heading) return out;
  const across = ([dx, dy]: Point): Point => [-dy, dx];
  const usual = median(out.map((p) => contrastAt(read, p, across(heading), width)));
  if (!usual) return out;
  /** The place about a point where the line is plainest, and whether it is seen there. */
  const looked = ([x, y]: Point, normal: Point, aside: number): Point | null => {
    let best: Point | null = null;
    let most = SAME;
    for (let d = -aside; d <= aside; d += 0.5) {
      const there: Point = [x + d * normal[0], y + d * normal[1]];
      const share = contrastAt(read, there, normal, width) / usual - 0.01 * Math.abs(d);
      if (share > most) {
        most = share;
        best = there;
      }
    }
    return best;
  };
  for (let length = 0; length < FARTHEST;) {
    const way = headingOf(out)!;
    const normal = across(way);
    const tip = out[out.length - 1];
    const ahead = (from: Point, t: number): Point => [from[0] + t * way[0], from[1] + t * way[1]];
    let next: Point | null = null;
    let gone = STEP;
    for (; gone <= MISSING && !next; gone += STEP) {
      const there = ahead(tip, gone);
      next = isKnown(...there) ? looked(there, normal, ASIDE.px + ASIDE.share * (gone - STEP)) : null;
      for (let k = 1, at = next; at && next && k < AGAIN && gone > STEP; k++) {
        at = looked(ahead(at, STEP), normal, ASIDE.px);
        if (!at) next = null;
      }
    }
    if (!next) break;
    length += gone;
    out.push(next);
  }
  return out;
}
