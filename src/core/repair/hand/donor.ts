import type { Point } from '../../mask/shapes.ts';
import type { Stroke } from '../../mask/strokes.ts';
import { applyAffine, isWhole, type Affine } from '../../raster/affine.ts';

/** How donor pixels are turned, sized and mirrored before they are put down. */
export interface Pose {
  /** degrees clockwise */
  turn: number;
  /** 0.25…4 */
  scale: number;
  /** swapped left and right (across) or top and bottom (down), before turning */
  mirror: 'none' | 'across' | 'down';
}

/** Where pixels come from: what lies at `from` is put down at `at`. */
export interface Donor extends Pose {
  from: Point;
  at: Point;
  /** the donor moves along with the brush from stroke to stroke; otherwise each stroke starts at `from` again */
  travels: boolean;
}

/** A donor in a picture whose corner lies elsewhere: both its places are moved. */
export const shiftDonor = <D extends Donor | null>(donor: D, dx: number, dy: number): D =>
  donor && {
    ...donor,
    from: [donor.from[0] + dx, donor.from[1] + dy],
    at: [donor.at[0] + dx, donor.at[1] + dy],
  };

export const PLAIN_POSE: Pose = { turn: 0, scale: 1, mirror: 'none' };

/** Cosine and sine, exact at quarter turns. */
function turned(degrees: number): [cos: number, sin: number] {
  const quarter = ((degrees % 360) + 360) % 360;
  if (quarter === 0) return [1, 0];
  if (quarter === 90) return [0, 1];
  if (quarter === 180) return [-1, 0];
  if (quarter === 270) return [0, -1];
  const r = (quarter * Math.PI) / 180;
  return [Math.cos(r), Math.sin(r)];
}

/**
 * The map from where pixels are put down to where they are taken from.
 * @param whole moves an unturned, unscaled donor to whole pixels, so that its samples are copied as they are
 */
export function mapOf(from: Point, at: Point, pose: Pose, whole: boolean): Affine {
  const [cos, sin] = turned(pose.turn);
  const mx = pose.mirror === 'across' ? -1 : 1;
  const my = pose.mirror === 'down' ? -1 : 1;
  const m: Affine = {
    a: (mx * cos) / pose.scale,
    b: (mx * sin) / pose.scale,
    c: (my * -sin) / pose.scale,
    d: (my * cos) / pose.scale,
    e: 0,
    f: 0,
  };
  // −0 would spoil the test for exact copies.
  for (const k of ['a', 'b', 'c', 'd'] as const) m[k] += 0;
  const [x, y] = applyAffine(m, at[0], at[1]);
  m.e = from[0] - x;
  m.f = from[1] - y;
  if (!whole) return m;
  const [px, py] = applyAffine(m, 0.5, 0.5);
  const rounded = { ...m, e: m.e + Math.round(px - 0.5) + 0.5 - px, f: m.f + Math.round(py - 0.5) + 0.5 - py };
  return isWhole(rounded) ? rounded : m;
}

/** The map back: where what lies at a place of the donor is put down. */
export function inverse(m: Affine): Affine {
  const det = m.a * m.d - m.b * m.c;
  const [a, b, c, d] = [m.d / det, -m.b / det, -m.c / det, m.a / det];
  return { a, b, c, d, e: -(a * m.e + b * m.f), f: -(c * m.e + d * m.f) };
}

/** The map of one stroke of a repair. */
export function strokeMap(donor: Donor, stroke: Pick<Stroke, 'points' | 'phase'>): Affine {
  const at: Point = donor.travels ? donor.at : [stroke.points[0][0], stroke.points[0][1]];
  return mapOf(donor.from, at, donor, true);
}
