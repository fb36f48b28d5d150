import { adviseDonors } from './donor-search.ts';
import { boundsOfStrokes, coverageOf, shiftStrokes, type Stroke } from '../../mask/strokes.ts';
import { shiftShapes, type Point, type Shape } from '../../mask/shapes.ts';
import { growWithin, intersect, isEmpty, union } from '../../raster/raster.ts';
import type { Beneath, RepairMethod } from '../method.ts';
import type { BlendSpec } from '../spec.ts';
import { donorWords, strokedDonor, strokesReadBox } from './copy.ts';
import { PLAIN_POSE, shiftDonor, strokeMap, type Donor } from './donor.ts';
import { adaptTone, rimWords } from './membrane.ts';
import { patchOf } from './put.ts';
import { leaveGaps, sampleBeneath } from './sample.ts';
import { searchReach } from './search-reach.ts';

/** A donor near strokes, where none was chosen. */
function nearestDonor(beneath: Beneath, strokes: readonly Stroke[], avoid: readonly Shape[]): Donor {
  const box = boundsOfStrokes(strokes, beneath.width, beneath.height);
  if (isEmpty(box)) throw new Error('The strokes lie outside the picture. Paint on the picture.');
  const coverage = coverageOf(strokes, box);
  const mask = { ...box, data: Uint8Array.from(coverage, (v) => (v > 0 ? 255 : 0)) };
  const [best] = adviseDonors(beneath, mask, avoid, { reach: searchReach(box), most: 1 });
  if (!best) throw new Error('No donor was found nearby: everything around is covered or a fault. Choose a donor.');
  const at: Point = [box.x + box.width / 2, box.y + box.height / 2];
  return { ...PLAIN_POSE, from: best.at, at, travels: true };
}

/** Blend: the donor's texture with the tone of the surroundings. */
export const blend: RepairMethod<BlendSpec> = {
  method: 'blend',
  version: 2,
  shift: (spec, dx, dy) => ({
    ...spec,
    strokes: shiftStrokes(spec.strokes, dx, dy),
    avoid: shiftShapes(spec.avoid, dx, dy),
    donor: shiftDonor(spec.donor, dx, dy),
  }),
  readBox(spec, width, height) {
    const box = boundsOfStrokes(spec.strokes, width, height);
    if (isEmpty(box)) return box;
    const rim = growWithin(box, 4, width, height);
    return spec.donor
      ? union(growWithin(strokesReadBox(spec.strokes, spec.donor, width, height), 4, width, height), rim)
      : growWithin(box, searchReach(box) + Math.max(box.width, box.height), width, height);
  },
  render(beneath, spec) {
    const donor = spec.donor ?? nearestDonor(beneath, spec.strokes, spec.avoid);
    const { box, sampled, coverage } = strokedDonor(beneath, spec.strokes, donor);
    // The rim lies around the strokes: a frame of a few px more, with the donor's pixels in it.
    const frame = growWithin(box, 4, beneath.width, beneath.height);
    const picture = beneath.read(frame);
    const around = sampleBeneath(beneath, strokeMap(donor, spec.strokes[0]), frame);
    const covered = new Uint8Array(frame.width * frame.height);
    const inside = intersect(box, frame);
    const each = (visit: (i: number, o: number) => void) => {
      for (let y = 0, i = 0; y < inside.height; y++)
        for (let x = 0; x < inside.width; x++, i++)
          visit(i, (y + inside.y - frame.y) * frame.width + x + inside.x - frame.x);
    };
    const { colours } = sampled;
    each((i, o) => {
      if (coverage[i] <= 0) return;
      covered[o] = 1;
      around.valid[o] = sampled.valid[i];
      for (let c = 0; c < colours; c++) around.values[o * colours + c] = sampled.values[i * colours + c];
    });
    leaveGaps(around, beneath.gap?.(frame), covered);
    const rim = adaptTone(picture, around, covered);
    each((i, o) => {
      for (let c = 0; c < colours; c++) sampled.values[i * colours + c] = around.values[o * colours + c];
    });
    const found = spec.donor
      ? 'the donor'
      : `a donor ${Math.round(Math.hypot(donor.from[0] - donor.at[0], donor.from[1] - donor.at[1]))} px away`;
    return {
      patch: patchOf(box, picture, sampled, coverage),
      reason: [`Texture from ${found}${donorWords(donor)}, tone from the surroundings.`, rimWords(rim)]
        .filter(Boolean)
        .join(' '),
    };
  },
};
