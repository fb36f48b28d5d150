import { distanceTransform } from '../../mask/distance.ts';
import { boundsOfShapes, rasterise, shiftShapes, type Shape } from '../../mask/shapes.ts';
import { sourceBox } from '../../raster/affine.ts';
import { growWithin, isEmpty, union, type Box, type Raster } from '../../raster/raster.ts';
import type { Sampled } from '../../raster/affine.ts';
import type { RepairMethod } from '../method.ts';
import type { PatchSpec } from '../spec.ts';
import { donorWords } from './copy.ts';
import { mapOf, shiftDonor } from './donor.ts';
import { adaptTone, rimWords, type Rim } from './membrane.ts';
import { patchOf } from './put.ts';
import { leaveGaps, sampleBeneath } from './sample.ts';

/** px around the cover that are read, so that it has a rim. */
const RIM = 4;

/** The frame in which an area is replaced: its box and a rim. */
export const frameOf = (cover: readonly Shape[], width: number, height: number): Box => {
  const box = boundsOfShapes(cover, width, height);
  return isEmpty(box) ? box : growWithin(box, RIM, width, height);
};

/** Coverage 0…1 of a binary cover whose edge falls off inwards over `feather` px. */
export function feathered(cover: Uint8Array, width: number, height: number, feather: number): Float32Array {
  if (feather <= 0) return Float32Array.from(cover, (v) => (v ? 1 : 0));
  const depth = distanceTransform(cover, width, height, 'outside');
  return depth.map((d, i) => (cover[i] ? Math.min(1, (d - 0.5) / feather) : 0));
}

/** Puts sampled colours on a cover, with their own tone or that of the surroundings. */
export function putDown(
  picture: Raster,
  frame: Box,
  sampled: Sampled,
  cover: Uint8Array,
  feather: number,
  blended: boolean,
  gaps?: Uint8Array | null,
): { patch: ReturnType<typeof patchOf>; rim: Rim | null } {
  leaveGaps(sampled, gaps, cover);
  const rim = blended ? adaptTone(picture, sampled, cover) : null;
  const coverage = feathered(cover, frame.width, frame.height, feather);
  return { patch: patchOf(frame, picture, sampled, coverage), rim };
}

/** Patch: an outlined area from another place, blended or as it is. */
export const patch: RepairMethod<PatchSpec> = {
  method: 'patch',
  version: 2,
  shift: (spec, dx, dy) => ({
    ...spec,
    cover: shiftShapes(spec.cover, dx, dy),
    donor: shiftDonor(spec.donor, dx, dy),
  }),
  readBox(spec, width, height) {
    const frame = frameOf(spec.cover, width, height);
    if (isEmpty(frame)) return frame;
    return union(frame, sourceBox(mapOf(spec.donor.from, spec.donor.at, spec.donor, true), frame, width, height));
  },
  render(beneath, spec) {
    const frame = frameOf(spec.cover, beneath.width, beneath.height);
    if (isEmpty(frame)) throw new Error('The area lies outside the picture. Outline it on the picture.');
    const picture = beneath.read(frame);
    const map = mapOf(spec.donor.from, spec.donor.at, spec.donor, true);
    const sampled = sampleBeneath(beneath, map, frame);
    const cover = rasterise(spec.cover, frame).data;
    const done = putDown(picture, frame, sampled, cover, spec.feather, spec.blended, beneath.gap?.(frame));
    const how = spec.blended ? 'with the tone of its new place' : 'as it is';
    return {
      patch: done.patch,
      reason: [`The area of the donor ${how}${donorWords(spec.donor)}.`, done.rim && rimWords(done.rim)]
        .filter(Boolean)
        .join(' '),
    };
  },
};
