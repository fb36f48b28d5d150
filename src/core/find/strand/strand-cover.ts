import type { Point, Shape } from '../../mask/shapes.ts';
import { median, quantile } from '../../raster/luma.ts';
import type { TracedStrand } from './strand.ts';

/**
 * The outline of a traced strand, wider than measured by `margin` px on each side, as one closed polygon.
 */
export function strandOutline({ points, widths }: Pick<TracedStrand, 'points' | 'widths'>, margin: number): Point[] {
  const side = (sign: 1 | -1): Point[] =>
    points.map((p, i) => {
      const a = points[Math.max(0, i - 1)];
      const b = points[Math.min(points.length - 1, i + 1)];
      const span = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
      const d = sign * (widths[i] / 2 + margin);
      return [p[0] - ((b[1] - a[1]) / span) * d, p[1] + ((b[0] - a[0]) / span) * d];
    });
  return [...side(1), ...side(-1).reverse()];
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
  length: s.length * by,
});

/** Softness in px that a lens and sampling give even to a sharp strand. */
const SHARP = 0.8;
/** How far beyond its half height an edge blurred by σ is still seen, in σ: beyond it less than a twentieth is left. */
const VEIL = 1.65;

/** Width of a strand where it is well seen, px. */
export const wellSeen = (strand: Pick<TracedStrand, 'widths'>): number => quantile(strand.widths, 0.7);

/** Share of the usual width below which only one side of a strand was seen: the other is as light as its ground there. */
const HALF_SEEN = 0.8;

/** px along a strand over which it has to look thin: for shorter it is something in front or behind that makes it so. */
const RUN = 120;

/** Where only one side of a strand was seen for a good way: wires do not get thinner, and the rest lies at either side. */
function halfSeen({ points, widths }: Pick<TracedStrand, 'points' | 'widths'>, usual: number): boolean[] {
  const out = widths.map(() => false);
  for (let from = 0; from < widths.length;) {
    let to = from;
    let length = 0;
    let thick = 0;
    // Crossings and grain let it look whole for a moment.
    for (; to < widths.length && thick < RUN / 8; to++) {
      const step = to ? Math.hypot(points[to][0] - points[to - 1][0], points[to][1] - points[to - 1][1]) : 0;
      thick = widths[to] < HALF_SEEN * usual ? 0 : thick + step;
      length += step;
    }
    if (length - thick >= RUN) out.fill(true, from, to);
    from = Math.max(to, from + 1);
  }
  return out;
}

/**
 * The cover of a traced strand: its outline with a hard edge, wider where it is lost in its ground, and the veil that an
 * out-of-focus strand casts beside it, a softer stretch by its own softness.
 * @param usual px across that it is where it is well seen; without it each place is as wide as it was seen
 */
export function strandCover(strand: Omit<TracedStrand, 'contrast' | 'length' | 'certainty'>, usual = 0): Shape[] {
  const veil = (i: number) =>
    // Of a stretch that seems sharper than the rest one side may be lost in its ground.
    Math.min(VEIL * Math.max(0, Math.max(strand.blurs[i] ?? 0, strand.blur) - SHARP), 0.6 * strand.width + 3);
  const half = usual > 0 ? halfSeen(strand, usual) : [];
  const widths = strand.widths.map(
    (w, i) => (half[i] ? 2 * usual - Math.min(w, usual) : w) + 2 * ((strand.unsure[i] ?? 0) + veil(i)),
  );
  return [{ op: 'add', kind: 'outline', points: strandOutline({ points: strand.points, widths }, 0.1) }];
}
