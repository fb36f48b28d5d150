import { boundsOfStrokes, layCoverage, layStroke, shiftStrokes, type Stroke } from '../../mask/strokes.ts';
import { sourceBox, type Affine, type Sampled } from '../../raster/affine.ts';
import { intersect, isEmpty, union, type Box } from '../../raster/raster.ts';
import type { Beneath, RepairMethod } from '../method.ts';
import type { Patch } from '../../raster/patch.ts';
import type { CopySpec } from '../spec.ts';
import { shiftDonor, strokeMap, type Donor } from './donor.ts';
import { patchOf } from './put.ts';
import { sampleBeneath } from './sample.ts';

const OUTSIDE = 'The strokes lie outside the picture. Paint on the picture.';

/** Strokes that one map serves, in the order in which they were painted. */
interface Run {
  map: Affine;
  strokes: Stroke[];
}

const same = (a: Affine, b: Affine) => (['a', 'b', 'c', 'd', 'e', 'f'] as const).every((k) => a[k] === b[k]);

function runsOf(strokes: readonly Stroke[], donor: Donor): Run[] {
  const out: Run[] = [];
  for (const stroke of strokes) {
    const map = strokeMap(donor, stroke);
    const last = out.at(-1);
    if (last && same(last.map, map)) last.strokes.push(stroke);
    else out.push({ map, strokes: [stroke] });
  }
  return out;
}

/** What strokes may read: what they cover, and where the donor travels; for a part of them only what that part needs. */
export function strokesReadBox(
  strokes: readonly Stroke[],
  donor: Donor,
  width: number,
  height: number,
  part?: Box,
): Box {
  const within = (b: Box) => (part ? intersect(b, part) : b);
  let box = within(boundsOfStrokes(strokes, width, height));
  if (isEmpty(box)) return box;
  for (const run of runsOf(strokes, donor)) {
    const own = within(boundsOfStrokes(run.strokes, width, height));
    if (!isEmpty(own)) box = union(box, sourceBox(run.map, own, width, height));
  }
  return box;
}

/**
 * Donor colours and coverage of strokes over their box, one laid over another.
 * @param part only this part of the box; its pixels are the same as in the whole
 */
export function strokedDonor(
  beneath: Beneath,
  strokes: readonly Stroke[],
  donor: Donor,
  part?: Box,
): { box: Box; sampled: Sampled; coverage: Float32Array } {
  const whole = boundsOfStrokes(strokes, beneath.width, beneath.height);
  const box = part ? intersect(whole, part) : whole;
  if (isEmpty(box)) throw new Error(OUTSIDE);
  const coverage = new Float32Array(box.width * box.height);
  let sampled: Sampled | undefined;
  for (const { map, strokes: own } of runsOf(strokes, donor)) {
    const cover = new Float32Array(coverage.length);
    for (const stroke of own) layStroke(cover, box, stroke);
    const mine = sampleBeneath(beneath, map, box, cover);
    for (let i = 0; i < cover.length; i++) if (!mine.valid[i]) cover[i] = 0;
    if (!sampled) sampled = mine;
    else mix(sampled, coverage, mine, cover);
    layCoverage(coverage, cover);
  }
  return { box, sampled: sampled!, coverage };
}

/** Lays one run's colours over those of the earlier ones (Porter–Duff *over*, colours kept apart from coverage). */
function mix(under: Sampled, underCover: Float32Array, over: Sampled, cover: Float32Array): void {
  const { colours } = under;
  for (let i = 0; i < cover.length; i++) {
    const a = cover[i];
    if (a === 0) continue;
    const share = a / (a + underCover[i] * (1 - a));
    for (let c = 0; c < colours; c++) {
      const o = i * colours + c;
      under.values[o] =
        underCover[i] > 0 ? under.values[o] + (over.values[o] - under.values[o]) * share : over.values[o];
    }
    under.valid[i] = 1;
  }
}

/** Says how a donor was put down. */
export function donorWords(donor: Donor): string {
  const parts = [
    donor.mirror !== 'none' && (donor.mirror === 'across' ? 'mirrored left to right' : 'mirrored top to bottom'),
    donor.turn !== 0 && `turned ${Math.round(donor.turn * 10) / 10}°`,
    donor.scale !== 1 && `at ${Math.round(donor.scale * 100)} %`,
  ].filter(Boolean);
  return parts.length ? `, ${parts.join(', ')}` : '';
}

/** A part of what a copy puts on the picture, as it is seen while a stroke is being painted. */
export function copyPart(beneath: Beneath, spec: CopySpec, part: Box): Patch {
  const { box, sampled, coverage } = strokedDonor(beneath, spec.strokes, spec.donor, part);
  const { channels, depth } = beneath.read({ x: box.x, y: box.y, width: 1, height: 1 });
  return patchOf(box, { channels, depth }, sampled, coverage);
}

/** Copy: exact pixels of a donor along strokes. */
export const copy: RepairMethod<CopySpec> = {
  method: 'copy',
  shift: (spec, dx, dy) => ({
    ...spec,
    strokes: shiftStrokes(spec.strokes, dx, dy),
    donor: shiftDonor(spec.donor, dx, dy),
  }),
  readBox: (spec, width, height) => strokesReadBox(spec.strokes, spec.donor, width, height),
  render(beneath, spec) {
    const exact = spec.donor.turn === 0 && spec.donor.scale === 1;
    return {
      patch: copyPart(beneath, spec, boundsOfStrokes(spec.strokes, beneath.width, beneath.height)),
      reason: `Pixels of the donor${exact ? ' as they are' : ''}${donorWords(spec.donor)}.`,
    };
  },
};
