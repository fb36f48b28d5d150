import type { Point, Shape } from '../../mask/shapes.ts';
import { median } from '../../raster/luma.ts';
import { lengthsAlong, softReaches } from './soft-profile.ts';
import type { TracedStrand } from './traced-strand.ts';

/** The outline that lies so many px to the left and to the right of a line, and `more` besides, as one closed polygon. */
function outlineBeside(
  points: readonly Point[],
  left: readonly number[],
  right: readonly number[],
  more: number,
): Point[] {
  const side = (sign: 1 | -1, away: readonly number[]): Point[] =>
    points.map((p, i) => {
      const a = points[Math.max(0, i - 1)];
      const b = points[Math.min(points.length - 1, i + 1)];
      const span = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
      const d = sign * (away[i] + more);
      return [p[0] - ((b[1] - a[1]) / span) * d, p[1] + ((b[0] - a[0]) / span) * d];
    });
  return [...side(1, left), ...side(-1, right).reverse()];
}

/** The outline of a traced strand, wider than measured by `margin` px on each side, as one closed polygon. */
export function strandOutline({ points, widths }: Pick<TracedStrand, 'points' | 'widths'>, margin: number): Point[] {
  const half = widths.map((w) => w / 2);
  return outlineBeside(points, half, half, margin);
}

/** px across from which strands are looked for at half the size, and only measured at full size. */
const WIDE = 8;
/** Median of the widths of strands, px. */
export const usualWidth = (strands: readonly TracedStrand[]): number => median(strands.map((s) => s.width));
/** How many px of the picture a px is as which strands are best looked at. */
export const scaleFor = (strands: readonly TracedStrand[]): 1 | 2 => (usualWidth(strands) >= WIDE ? 2 : 1);
/** A strand in a picture `by` times as large. */
export const resizeStrand = (s: TracedStrand, by: number): TracedStrand => ({
  ...s,
  points: s.points.map(([x, y]): Point => [x * by, y * by]),
  widths: s.widths.map((w) => w * by),
  width: s.width * by,
  unsure: s.unsure.map((u) => u * by),
  blur: s.blur * by,
  blurs: s.blurs.map((b) => b * by),
  reaches: s.reaches && [s.reaches[0].map((r) => r * by), s.reaches[1].map((r) => r * by)],
  length: s.length * by,
});

/** Softness in px that a lens and sampling give even to a sharp strand. */
const SHARP = 0.8;
/** How far beyond its half height an edge blurred by σ is still seen, in σ: beyond it less than a twentieth is left. */
const VEIL = 1.65;

/** Share of the width beside it below which only one side of a strand was seen: the other is as light as its ground there. */
const HALF_SEEN = 0.8;
/** px along a strand over which it has to look thin: for shorter it is something in front or behind that makes it so. */
const RUN = 120;
/** px on both sides of a place over which its width is compared: a strand that tapers changes less over that, one that is lost jumps. */
const JUMP = 24;

/**
 * Width that each point of a strand has when both its sides are seen: as measured, and where one side is lost in its ground for a
 * good way, as wide as it is beside the place where that begins. A strand that grows thinner evenly is as thin as it looks.
 */
function wholeWidths({ points, widths }: Pick<TracedStrand, 'points' | 'widths'>): number[] {
  const out = widths.slice();
  const lengths = lengthsAlong(points);
  const within = (from: number, to: number) => widths.filter((_, i) => lengths[i] >= from && lengths[i] < to);
  let at = 0;
  while (at < widths.length) {
    // Where it jumps to less: the last place that is as wide as before lies between.
    const before = median(within(lengths[at] - JUMP, lengths[at]));
    const after = median(within(lengths[at], lengths[at] + JUMP));
    const falls = after < HALF_SEEN * before;
    const rises = before < HALF_SEEN * after;
    if (!falls && !rises) {
      at++;
      continue;
    }
    const usual = Math.max(before, after);
    const run = thinRun(widths, lengths, at, falls ? 1 : -1, HALF_SEEN * usual);
    if (Math.abs(lengths[run] - lengths[at]) >= RUN)
      for (let i = Math.min(at, run); i <= Math.max(at, run); i++)
        if (widths[i] < HALF_SEEN * usual) out[i] = Math.max(out[i], 2 * usual - widths[i]);
    at = falls ? Math.max(at + 1, run) : at + 1;
  }
  return out;
}

/** Where a stretch that is thinner than a width ends, going one way; crossings and grain let it look whole for a moment. */
function thinRun(widths: readonly number[], lengths: readonly number[], at: number, way: 1 | -1, thin: number): number {
  let last = at;
  for (let i = at; i >= 0 && i < widths.length; i += way) {
    if (widths[i] < thin) last = i;
    else if (Math.abs(lengths[i] - lengths[last]) > RUN / 8 + JUMP / 2) break;
  }
  return last;
}

/** px from the centre line that count as strand at each point before its soft profile is looked at. */
function leastReaches(strand: Omit<TracedStrand, 'contrast' | 'length' | 'certainty' | 'reaches'>): number[] {
  const veil = (i: number) =>
    // Of a stretch that seems sharper than the rest one side may be lost in its ground.
    Math.min(VEIL * Math.max(0, Math.max(strand.blurs[i] ?? 0, strand.blur) - SHARP), 0.6 * strand.width + 3);
  return wholeWidths(strand).map((w, i) => w / 2 + (strand.unsure[i] ?? 0) + veil(i));
}

/** A strand with its reaches measured in the picture. */
export const withReaches = (
  reads: ReadonlyArray<(x: number, y: number) => number>,
  strand: TracedStrand,
): TracedStrand => ({
  ...strand,
  reaches: softReaches(reads, strand, leastReaches(strand)),
});

/**
 * The cover of a traced strand, with a hard edge: as far to each side as something of it is seen. Where that was not measured it is
 * its outline, wider where it is lost in its ground, with the veil that an out-of-focus strand casts beside it, a softer stretch by
 * its own softness.
 */
export function strandCover(strand: Omit<TracedStrand, 'contrast' | 'length' | 'certainty'>): Shape[] {
  const least = strand.reaches ? [] : leastReaches(strand);
  const [left, right] = strand.reaches ?? [least, least];
  return [{ op: 'add', kind: 'outline', points: outlineBeside(strand.points, left, right, 0.1) }];
}
