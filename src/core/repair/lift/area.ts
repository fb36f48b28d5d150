import { rasterise } from '../../mask/shapes.ts';
import type { Box } from '../../raster/raster.ts';
import type { Beneath } from '../method.ts';
import type { LiftSpec } from '../spec.ts';
import { contoursOf } from './contour.ts';
import { fitStain, type Stain } from './fit.ts';
import type { Over } from './over.ts';
import { placesOf } from './places.ts';
import type { Known } from './unwrapped.ts';

/** Strength under which a pixel is left as it is. */
const LEAST = 0.012;
/** px beyond the picture over which a cover at its border is carried on, so that the border is not taken for the stain's edge. */
const PADDED = 64;

/** The cover over a frame, carried on where it reaches the picture's border. */
function paddedCover(cover: LiftSpec['cover'], frame: Box, { width, height }: Beneath): { mask: Uint8Array; box: Box } {
  const own = rasterise(cover, frame);
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

const percent = (v: number) => `${Math.round(100 * v)} %`;

/** What was found, in words. */
function told({ model, moved, profiles }: Stain): string {
  const soft = Math.max(...profiles.map((p) => p.inner + p.outer));
  const light = 1 - model.gain.reduce((a, b) => a + b, 0) / model.gain.length;
  const what = model.offset.some((v) => v !== 0)
    ? `a layer of ${percent(light)} lies over it`
    : `${percent(Math.abs(light))} of the light ${light > 0 ? 'is missing' : 'is too much'}`;
  const where = moved >= 1.5 ? `, true edge up to ${Math.round(moved)} px from the outline` : '';
  return `${what}; edge ${Math.round(soft)} px wide${where}`;
}

/** What lies over an outlined area. Null where too little around it is known. */
export function overArea(beneath: Beneath, { cover }: LiftSpec, known: Known, frame: Box, bounds: Box): Over | null {
  const { mask, box } = paddedCover(cover, frame, beneath);
  const contours = contoursOf(mask, box.width, box.height).map((c) => ({
    ...c,
    x: c.x.map((v) => v + box.x - frame.x),
    y: c.y.map((v) => v + box.y - frame.y),
  }));
  const stain = contours.length ? fitStain(known, contours) : null;
  if (!stain) return null;
  const places = placesOf(stain.contours, { ...bounds, x: bounds.x - frame.x, y: bounds.y - frame.y });
  const strengths = new Float32Array(known.channels);
  const { model, certainty } = stain;
  return {
    certainty,
    told: told(stain),
    at(i, gain, offset) {
      if (!stain.strengthAt(places.contour[i], places.sample[i], places.distance[i], strengths)) return false;
      if (strengths.every((s) => Math.abs(s) < LEAST)) return false;
      for (let c = 0; c < gain.length; c++) {
        gain[c] = 1 - strengths[c] * (1 - model.gain[c]);
        offset[c] = strengths[c] * model.offset[c];
      }
      return true;
    },
  };
}
