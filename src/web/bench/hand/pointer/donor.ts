import type { HandSpec } from '../../../../contract/document.ts';
import type { Point } from '../../../../core/mask/shapes.ts';
import { turnedBy } from '../floating.ts';
import { knobAt, NEAR, ringOf } from '../ring.ts';
import { handSpec } from '../settings.ts';
import type { Begin, Drag } from './drag.ts';
import { stroke } from './stroke.ts';

/** A placed repair whose donor was moved along with the pointer. */
function moved(spec: HandSpec, [dx, dy]: Point): HandSpec {
  if (!('donor' in spec) || !spec.donor) return spec;
  const { from } = spec.donor;
  return { ...spec, donor: { ...spec.donor, from: [Math.round(from[0] + dx), Math.round(from[1] + dy)] } };
}

/** Takes hold of a placed repair's donor, or takes a proposed one; else paints. */
export const donorOrStroke: Begin = (start, e, sheet) => {
  const { hand, handle, area, donors, apart } = sheet;
  const spec = handSpec(hand.repair);
  const ring = ringOf(spec, area);
  if (ring && spec && 'donor' in spec && spec.donor) {
    const { donor } = spec;
    const knob = apart(start, knobAt(ring.donor, ring.radius, donor.turn, handle.scale())) < NEAR;
    if (knob || apart(start, ring.donor) < Math.max(NEAR, ring.radius * handle.scale())) {
      hand.begin(hand.repair!.id);
      const drag: Drag = {
        move(p) {
          drag.draft = knob
            ? { ...spec, donor: { ...donor, ...turnOf(turnedBy(donor, ring.donor, start, p)) } }
            : moved(spec, [p[0] - start[0], p[1] - start[1]]);
          sheet.hand.preview.render(drag.draft, { alone: true });
        },
        end() {
          if (drag.draft) sheet.hand.changeSpec(drag.draft);
        },
      };
      return drag;
    }
  }
  const proposed = donors.find((d) => apart(start, d.at) < Math.max(NEAR, (hand.size / 2) * handle.scale()));
  if (proposed && !hand.from) {
    hand.setDonor(proposed.at);
    return null;
  }
  return stroke(start, e, sheet);
};

const turnOf = ({ turn, scale }: { turn: number; scale: number }) => ({ turn, scale });
