import { median } from '../../raster/luma.ts';
import type { Point } from '../../mask/shapes.ts';

/** px back from an end over which its direction is taken, and what it looks like. */
const BACK = 24;
/** px that an end runs on at the most, besides twice the strand's width. */
const AHEAD = 10;
/** Share of the contrast before the end that counts as the same strand, and how many px in a row may show less. */
const SAME = 0.5;
const MISSES = 2;
/** Levels of 255 of contrast under which nothing is followed. */
const LEAST = 6;

type Read = (x: number, y: number) => number;

/** What is moved on of a strand; each place has a width, and a softness and an unsureness where those are known. */
interface Ends {
  points: Point[];
  widths: number[];
  blurs: number[];
  unsure: number[];
  width: number;
  length: number;
}

/** How much a place differs from both its sides, across a direction, levels. */
export function contrastAt(read: Read, [x, y]: Point, [nx, ny]: Point, width: number): number {
  const mean = (from: number, to: number) => {
    let sum = 0;
    for (let k = 0; k < 5; k++) {
      const d = from + ((to - from) * k) / 4;
      sum += read(x + nx * d, y + ny * d);
    }
    return sum / 5;
  };
  const half = width / 2;
  const middle = mean(-0.3 * half, 0.3 * half);
  const sides = [mean(-half - 4, -half - 1.5), mean(half + 1.5, half + 4)].map((side) => middle - side);
  // Both sides have to differ the same way, or it is an edge.
  if (sides[0] * sides[1] <= 0) return 0;
  return Math.abs(sides[0]) < Math.abs(sides[1]) ? sides[0] : sides[1];
}

/** Points that lie ahead of the end of a strand: as far as it goes on looking like it, and to the border where it comes near that. */
function ahead(read: Read, points: readonly Point[], width: number, size: { width: number; height: number }): Point[] {
  const end = points[points.length - 1];
  const far = points.findLast(([x, y]) => Math.hypot(x - end[0], y - end[1]) >= BACK) ?? points[0];
  const length = Math.hypot(end[0] - far[0], end[1] - far[1]);
  if (length < BACK / 2) return [];
  const [dx, dy] = [(end[0] - far[0]) / length, (end[1] - far[1]) / length];
  const across: Point = [-dy, dx];
  const at = (t: number): Point => [end[0] + dx * t, end[1] + dy * t];
  const usual = median(Array.from({ length: BACK / 2 }, (_, k) => contrastAt(read, at(-2 * k - 2), across, width)));
  const most = Math.round(AHEAD + 2 * width);
  const toEdge = (p: number, step: number, full: number) =>
    step > 0 ? (full - p) / step : step < 0 ? -p / step : Infinity;
  const border = Math.min(toEdge(end[0], dx, size.width), toEdge(end[1], dy, size.height));
  let run = 0;
  // What lies nearer to the border than it is looked at beside goes on: strands do not end there.
  if (border <= most) run = Math.max(0, border);
  else if (Math.abs(usual) >= LEAST)
    for (let t = 1, missed = 0; t <= most && missed < MISSES; t++) {
      const same = contrastAt(read, at(t), across, width) / usual >= SAME;
      missed = same ? 0 : missed + 1;
      if (!missed) run = t;
    }
  // One that goes on and on was set to end where it does.
  if (border > most && run > most - MISSES) return [];
  return run >= 1 ? [at(run / 2), at(run)] : [];
}

/**
 * A traced strand whose ends run on to the picture's border, or to where it stops looking like itself: at the post or the knot that it
 * belongs to. Points are seldom set on the very end.
 * @param read luma at a place in px
 * Source: own.
 */
export function runOn<S extends Ends>(read: Read, strand: S, size: { width: number; height: number }): S {
  const { points, width } = strand;
  const after = ahead(read, points, width, size);
  const before = ahead(read, points.slice().reverse(), width, size).reverse();
  if (!after.length && !before.length) return strand;
  const filled = <T>(list: readonly T[]): T[] =>
    list.length ? [...before.map(() => list[0]), ...list, ...after.map(() => list[list.length - 1])] : [];
  const all = [...before, ...points, ...after];
  let length = 0;
  for (let i = 1; i < all.length; i++) length += Math.hypot(all[i][0] - all[i - 1][0], all[i][1] - all[i - 1][1]);
  const { widths, blurs, unsure } = strand;
  return { ...strand, points: all, widths: filled(widths), blurs: filled(blurs), unsure: filled(unsure), length };
}
