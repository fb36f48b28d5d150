import type { HandSpec, Repair } from '../../../contract/document.ts';
import { boundsWithin, type Point, type Shape } from '../../../core/mask/shapes.ts';
import { applyAffine } from '../../../core/raster/affine.ts';
import type { Box } from '../../../core/raster/raster.ts';
import { inverse, mapOf, PLAIN_POSE, type Pose } from '../../../core/repair/hand/donor.ts';
import { bendAt } from '../../../core/repair/hand/transplant.ts';

/** An area or a piece that has been outlined and is being moved before it is put down. */
export interface Floating {
  kind: 'patch' | 'transplant';
  shapes: Shape[];
  /** the box of the shapes */
  box: Box;
  /** its middle, and where that has been dragged to */
  middle: Point;
  at: Point;
  pose: Pose;
  bend: Point[];
  /** the repair that is being changed */
  editing: string | null;
  /** how well the solved pose agrees, once it was solved */
  agreement?: number;
}

export const UNBENT: Point[] = Array.from({ length: 9 }, () => [0, 0]);

/** Lifts shapes; null when they lie outside the picture. */
export function float(kind: Floating['kind'], shapes: Shape[], area: Box): Floating | null {
  const box = boundsWithin(shapes, area);
  if (box.width < 2 || box.height < 2) return null;
  const middle: Point = [box.x + box.width / 2, box.y + box.height / 2];
  return { kind, shapes, box, middle, at: middle, pose: PLAIN_POSE, bend: UNBENT, editing: null };
}

const moved = (shape: Shape, dx: number, dy: number): Shape =>
  shape.kind === 'box'
    ? { ...shape, x: shape.x + dx, y: shape.y + dy }
    : { ...shape, points: shape.points.map(([x, y]): Point => [x + dx, y + dy]) };

/** Shapes moved by whole px. */
export const movedShapes = (shapes: readonly Shape[], dx: number, dy: number): Shape[] =>
  shapes.map((s) => moved(s, Math.round(dx), Math.round(dy)));

/** The twin of a fault, lifted with as much around it as tells how it fits, and brought to the fault. */
export function floatTwin(shapes: Shape[], twin: { at: Point; mirrored: boolean }, area: Box): Floating | null {
  const box = boundsWithin(shapes, area);
  const side = Math.max(24, 0.75 * Math.max(box.width, box.height));
  const square: Shape = {
    op: 'add',
    kind: 'box',
    x: Math.round(twin.at[0] - box.width / 2 - side),
    y: Math.round(twin.at[1] - box.height / 2 - side),
    width: Math.round(box.width + 2 * side),
    height: Math.round(box.height + 2 * side),
  };
  const lifted = float('transplant', [square], area);
  if (!lifted) return null;
  // Its middle, not the twin's, decides where it lies: at the picture's edge they differ.
  const dx = lifted.middle[0] - twin.at[0];
  return {
    ...lifted,
    at: [box.x + box.width / 2 + (twin.mirrored ? -dx : dx), box.y + box.height / 2 + lifted.middle[1] - twin.at[1]],
    pose: { ...PLAIN_POSE, mirror: twin.mirrored ? 'across' : 'none' },
  };
}

/** How a patch goes: the outlined bad area is dragged to a good one, or the outlined good one onto the bad. */
export type Direction = 'to the good' | 'onto the bad';

/** The settings of what floats. */
export function specOf(f: Floating, options: { direction: Direction; blended: boolean; feather: number }): HandSpec {
  const { blended, feather } = options;
  const round = ([x, y]: Point): Point => [Math.round(x * 100) / 100, Math.round(y * 100) / 100];
  if (f.kind === 'transplant') {
    const donor = { ...f.pose, from: f.middle, at: round(f.at), travels: true };
    return { method: 'transplant', piece: f.shapes, feather, blended, donor, bend: f.bend.map(round) };
  }
  const [dx, dy] = [Math.round(f.at[0] - f.middle[0]), Math.round(f.at[1] - f.middle[1])];
  const there: Point = [f.middle[0] + dx, f.middle[1] + dy];
  return options.direction === 'to the good' || f.editing
    ? {
        method: 'patch',
        cover: f.shapes,
        feather,
        blended,
        donor: { ...f.pose, from: there, at: f.middle, travels: true },
      }
    : {
        method: 'patch',
        cover: movedShapes(f.shapes, dx, dy),
        feather,
        blended,
        donor: { ...f.pose, from: f.middle, at: there, travels: true },
      };
}

/** What floats when a placed patch or transplant is taken up again; null for other methods. */
export function takenUp(repair: Repair, area: Box): Floating | null {
  const { spec } = repair.tries.find((t) => t.id === repair.chosen)!;
  if (spec.method !== 'patch' && spec.method !== 'transplant') return null;
  const lifted = float(spec.method, spec.method === 'patch' ? spec.cover : spec.piece, area);
  if (!lifted) return null;
  const { from, at, turn, scale, mirror } = spec.donor;
  const pose = { turn, scale, mirror };
  return spec.method === 'patch'
    ? { ...lifted, middle: at, at: from, pose, editing: repair.id }
    : { ...lifted, middle: from, at, pose, bend: spec.bend, editing: repair.id };
}

/** Where a place of the outlined shapes is seen while they float. */
export function seenAt(f: Floating, x: number, y: number): Point {
  if (f.kind === 'patch') return [x + f.at[0] - f.middle[0], y + f.at[1] - f.middle[1]];
  const [dx, dy] = bendAt(f.bend, f.box, x, y);
  return applyAffine(inverse(mapOf(f.middle, f.at, f.pose, false)), x + dx, y + dy);
}

/** The nine handles of a piece, by rows, where they are seen. */
export const handlesOf = (f: Floating): Point[] =>
  UNBENT.map((_, i) => {
    const x = f.box.x + ((i % 3) / 2) * f.box.width;
    const y = f.box.y + (Math.floor(i / 3) / 2) * f.box.height;
    return seenAt(f, x, y);
  });

/** A piece with one handle moved by a distance on the picture. */
export function bent(f: Floating, handle: number, dx: number, dy: number): Floating {
  const { a, b, c, d } = mapOf(f.middle, f.at, f.pose, false);
  const by: Point = [a * dx + b * dy, c * dx + d * dy];
  return { ...f, bend: f.bend.map((p, i): Point => (i === handle ? [p[0] + by[0], p[1] + by[1]] : p)) };
}

/** Turn and scale after the knob, which stands off the middle, is dragged from one place to another. */
export function turnedBy(pose: Pose, middle: Point, from: Point, to: Point): Pose {
  const angle = (p: Point) => Math.atan2(p[1] - middle[1], p[0] - middle[0]);
  const far = (p: Point) => Math.max(1, Math.hypot(p[0] - middle[0], p[1] - middle[1]));
  const turn = pose.turn + ((angle(to) - angle(from)) * 180) / Math.PI;
  return {
    ...pose,
    turn: Math.round((((((turn + 180) % 360) + 360) % 360) - 180) * 10) / 10,
    scale: Math.round(Math.min(4, Math.max(0.25, (pose.scale * far(to)) / far(from))) * 1000) / 1000,
  };
}
