import { boundsWithin, shiftShapes } from '../mask/shapes.ts';
import { measureEnds } from './ends.ts';
import { CLEAR_SPREAD } from './reach.ts';
import { compositeOver, type Patch } from '../raster/patch.ts';
import { growWithin, isEmpty, type Box } from '../raster/raster.ts';
import { distanceTransform } from '../mask/distance.ts';
import { lumaPlane, quantile } from '../raster/luma.ts';
import type { Beneath } from '../repair/method.ts';
import type { RepairSpec } from '../repair/spec.ts';

/** px of a soft edge beyond a cover that nobody sees. */
const UNSEEN = 2;
/** px around a cover that are looked at, and px beside its edge that are compared. */
const LOOK = 112;
const RIM = 6;
/** Deepest place in px from which on a cover has a tone of its own, and levels by which that may depart from its rim. */
const DEEP = 12;
const STEP = 6;
const SCATTER = 1.5;

/** Covered pixels of a box, from the alpha of a patch. */
function coveredIn(patch: Patch, box: Box): Uint8Array {
  const out = new Uint8Array(box.width * box.height);
  const alpha = patch.channels - 1;
  for (let y = 0; y < patch.height; y++)
    for (let x = 0; x < patch.width; x++)
      if (patch.data[(y * patch.width + x) * patch.channels + alpha])
        out[(patch.y - box.y + y) * box.width + patch.x - box.x + x] = 1;
  return out;
}

/** Whether the tone inside a cover's edge departs from that outside it on even ground; levels, 0 where it does not. */
function toneStep(beneath: Beneath, patch: Patch): number {
  if (Math.min(patch.width, patch.height) < 2 * DEEP) return 0;
  const box = growWithin(patch, 2 * RIM, beneath.width, beneath.height);
  const picture = beneath.read(box);
  compositeOver(picture, box, patch, 1);
  const cover = coveredIn(patch, box);
  const [inwards, outwards] = [
    distanceTransform(cover, box.width, box.height, 'outside'),
    distanceTransform(cover, box.width, box.height, 'inside'),
  ];
  const luma = lumaPlane(picture);
  const [inside, outside]: [number[], number[]] = [[], []];
  for (let i = 0; i < luma.length; i++) {
    if (cover[i] && inwards[i] > 1 && inwards[i] <= RIM) inside.push(luma[i]);
    else if (!cover[i] && outwards[i] > 1 && outwards[i] <= RIM) outside.push(luma[i]);
  }
  if (inside.length < 40 || outside.length < 40) return 0;
  const scatter = (quantile(outside, 0.84) - quantile(outside, 0.16)) / 2;
  const step = Math.abs(quantile(inside, 0.5) - quantile(outside, 0.5));
  return step > Math.max(STEP, SCATTER * scatter) ? step : 0;
}

/**
 * A first look at a repair as it is rendered: whether the fault's soft edge runs on beyond its cover, and whether its tone departs from
 * what is around. Null where neither is seen.
 * @returns what to look at, in a sentence
 */
export function quickLook(beneath: Beneath, spec: RepairSpec, patch: Patch): string | null {
  if (spec.method !== 'fill' || isEmpty(patch)) return null;
  const bounds = boundsWithin(spec.cover, { x: 0, y: 0, width: beneath.width, height: beneath.height });
  if (isEmpty(bounds)) return null;
  const frame = growWithin(bounds, LOOK, beneath.width, beneath.height);
  const here = (shapes: typeof spec.cover) => shiftShapes(shapes, -frame.x, -frame.y);
  const ends = measureEnds(beneath.read(frame), here(spec.cover), here(spec.avoid));
  const beyond = ends && ends.spread < CLEAR_SPREAD ? ends.reach - spec.margin - spec.feather / 2 : 0;
  if (beyond > UNSEEN) return `its edge runs on ${Math.round(beyond)} px beyond the cover.`;
  const step = toneStep(beneath, patch);
  return step ? `its tone is ${Math.round(step)} levels off what is around.` : null;
}
