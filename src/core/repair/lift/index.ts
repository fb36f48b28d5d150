import { coverBounds, rasterise, shiftShapes } from '../../mask/shapes.ts';
import { crop, fullScale, growWithin, isEmpty, type Box } from '../../raster/raster.ts';
import { emptyPatch } from '../../raster/patch.ts';
import { toFloat4 } from '../../raster/planes.ts';
import { colourChannels } from '../../raster/raster.ts';
import type { Beneath, RepairMethod, Rendered } from '../method.ts';
import type { LiftSpec } from '../spec.ts';
import { contoursOf } from './contour.ts';
import { fitStain, type Stain } from './fit.ts';
import { placesOf } from './places.ts';
import { REACH } from './unwrapped.ts';

/** px around the drawn outline in which the true edge may lie, soft edge included. */
const BEYOND = 90;
/** Share of a channel's contrast under which nothing can be read any more. */
const LEGIBLE = 0.12;
/** Certainty under which it is said that it is not sure; the best of several searches looks surer than it is. */
export const SURE = 1.35;
/** Strength under which a pixel is left as it is. */
const LEAST = 0.012;

/** px beyond the picture over which a cover at its border is carried on, so that the border is not taken for the stain's edge. */
const PADDED = 64;

/** The cover over a frame, carried on where it reaches the picture's border. */
function paddedCover(spec: LiftSpec, frame: Box, { width, height }: Beneath): { mask: Uint8Array; box: Box } {
  const own = rasterise(spec.cover, frame);
  const pad = {
    left: frame.x === 0 ? PADDED : 0,
    top: frame.y === 0 ? PADDED : 0,
    right: frame.x + frame.width === width ? PADDED : 0,
    bottom: frame.y + frame.height === height ? PADDED : 0,
  };
  const box: Box = {
    x: frame.x - pad.left,
    y: frame.y - pad.top,
    width: frame.width + pad.left + pad.right,
    height: frame.height + pad.top + pad.bottom,
  };
  const mask = new Uint8Array(box.width * box.height);
  for (let y = 0, i = 0; y < box.height; y++) {
    const v = Math.min(frame.height - 1, Math.max(0, y - pad.top));
    for (let x = 0; x < box.width; x++, i++) {
      const u = Math.min(frame.width - 1, Math.max(0, x - pad.left));
      mask[i] = own.data[v * frame.width + u] ? 1 : 0;
    }
  }
  return { mask, box };
}

/** What is known of a stain, and where; null where its cover lies outside the picture. */
export function measureStain(
  beneath: Beneath,
  spec: LiftSpec,
): { stain: Stain | null; frame: Box; image: Float32Array } {
  const bounds = coverBounds(spec.cover, 0, 0, beneath.width, beneath.height);
  if (isEmpty(bounds)) throw new Error('The outline lies outside the picture. Mark the stain again.');
  const frame = growWithin(bounds, BEYOND + REACH, beneath.width, beneath.height);
  const picture = beneath.read(frame);
  const channels = colourChannels(picture.channels);
  const image = toFloat4(picture);
  const unknown = spec.avoid.length ? rasterise(spec.avoid, frame).data : new Uint8Array(frame.width * frame.height);
  const gap = beneath.gap?.(frame);
  if (gap) for (let i = 0; i < unknown.length; i++) unknown[i] ||= gap[i];
  const { mask, box } = paddedCover(spec, frame, beneath);
  const contours = contoursOf(mask, box.width, box.height).map((c) => ({
    ...c,
    x: c.x.map((v) => v + box.x - frame.x),
    y: c.y.map((v) => v + box.y - frame.y),
  }));
  const known = { image, width: frame.width, height: frame.height, channels, unknown };
  return { stain: contours.length ? fitStain(known, contours) : null, frame, image };
}

const percent = (v: number) => `${Math.round(100 * v)} %`;

/** Said where nothing is done. */
const UNSURE =
  'Not sure what lies over the picture here: its edge does not stand out from what is around. Left as it is. Draw the outline closer to the edge, lift it anyway, or fill it.';
const PIXEL: Box = { x: 0, y: 0, width: 1, height: 1 };

/** What was found, in a sentence. */
function told({ model, certainty, moved, profiles }: Stain): string {
  const soft = Math.max(...profiles.map((p) => p.inner + p.outer));
  const light = 1 - model.gain.reduce((a, b) => a + b, 0) / model.gain.length;
  const what = model.offset.some((v) => v !== 0)
    ? `a layer of ${percent(light)} lies over it`
    : `${percent(Math.abs(light))} of the light ${light > 0 ? 'is missing' : 'is too much'}`;
  const where = moved >= 1.5 ? `, true edge up to ${Math.round(moved)} px from the outline` : '';
  const sure = certainty < SURE ? 'Not sure. ' : '';
  return `${sure}Lifted: ${what}; edge ${Math.round(soft)} px wide${where}. Detail beneath is kept.`;
}

function render(beneath: Beneath, spec: LiftSpec): Rendered {
  const { stain, frame, image } = measureStain(beneath, spec);
  if (!stain)
    throw new Error(
      'Too little around this place is known to lift anything. Draw the outline so that the stain’s edge lies in the picture, or fill it.',
    );
  if (stain.certainty < SURE && !spec.anyway)
    return { patch: emptyPatch({ ...frame, width: 0, height: 0 }, beneath.read(PIXEL)), reason: UNSURE };
  const bounds = growWithin(
    coverBounds(spec.cover, 0, 0, beneath.width, beneath.height),
    BEYOND,
    beneath.width,
    beneath.height,
  );
  const picture = crop(beneath.read(frame), {
    x: bounds.x - frame.x,
    y: bounds.y - frame.y,
    width: bounds.width,
    height: bounds.height,
  });
  const places = placesOf(stain.contours, { ...bounds, x: bounds.x - frame.x, y: bounds.y - frame.y });
  const colours = colourChannels(picture.channels);
  const patch = emptyPatch(bounds, picture);
  const top = fullScale(picture.depth);
  const { gain, offset } = stain.model;
  const strengths = new Float32Array(colours);
  for (let y = 0, i = 0; y < bounds.height; y++) {
    for (let x = 0; x < bounds.width; x++, i++) {
      if (!stain.strengthAt(places.contour[i], places.sample[i], places.distance[i], strengths)) continue;
      if (strengths.every((s) => Math.abs(s) < LEAST)) continue;
      const from = 4 * ((y + bounds.y - frame.y) * frame.width + x + bounds.x - frame.x);
      const o = i * patch.channels;
      for (let c = 0; c < colours; c++) {
        const s = spec.amount * strengths[c];
        const contrast = Math.max(LEGIBLE, 1 - s * (1 - gain[c]));
        const v = (image[from + c] - s * offset[c]) / contrast;
        patch.data[o + c] = Math.round((Math.min(255, Math.max(0, v)) * top) / 255);
      }
      patch.data[o + colours] = top;
    }
  }
  return { patch, reason: told(stain) };
}

/** Lift: takes off what lies over the picture and lets it through, by a model of what it does to tone and colour. */
export const lift: RepairMethod<LiftSpec> = {
  method: 'lift',
  shift: (spec, dx, dy) => ({
    ...spec,
    cover: shiftShapes(spec.cover, dx, dy),
    avoid: shiftShapes(spec.avoid, dx, dy),
  }),
  readBox(spec, width, height) {
    const box = coverBounds(spec.cover, 0, 0, width, height);
    return isEmpty(box) ? box : growWithin(box, BEYOND + REACH, width, height);
  },
  render,
};
