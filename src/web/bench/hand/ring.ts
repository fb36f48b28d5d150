import type { HandSpec } from '../../../contract/document.ts';
import type { Point } from '../../../core/mask/shapes.ts';
import { strokesWithin } from '../../../core/mask/strokes.ts';
import { isEmpty, type Box } from '../../../core/raster/raster.ts';
import type { Donor } from '../../../core/repair/hand/donor.ts';
import { donorAt } from './warnings.ts';

/** px on the screen within which a handle is taken. */
export const NEAR = 11;
/** px on the screen from the middle to the knob beyond the ring. */
const KNOB = 26;

/** The donor of a placed repair, where it is seen: the middle of what it covers and of what it takes. */
export function ringOf(spec: HandSpec | null, area: Box) {
  if (!spec || !('donor' in spec) || !spec.donor || !('strokes' in spec)) return null;
  const box = strokesWithin(spec.strokes, area);
  if (isEmpty(box)) return null;
  const cover: Point = [box.x + box.width / 2, box.y + box.height / 2];
  const first = spec.strokes[0].points[0];
  const donor: Donor = spec.donor.travels ? spec.donor : { ...spec.donor, at: [first[0], first[1]] };
  return { cover, donor: donorAt(donor, cover), radius: spec.strokes[0].size / 2 };
}

/** Where the knob of a ring lies on the picture: a way beyond it, to where its donor's top points. */
export function knobAt([x, y]: Point, radius: number, turn: number, scale: number): Point {
  const far = (Math.max(4, radius * scale) + KNOB) / scale;
  const r = (turn * Math.PI) / 180 - Math.PI / 2;
  return [x + far * Math.cos(r), y + far * Math.sin(r)];
}
