import { distanceTransform } from './distance.ts';
import { rasterise, type Shape } from './shapes.ts';
import { strokeCoverage, type Stroke } from './strokes.ts';
import { colourChannels, type Box } from '../raster/raster.ts';
import type { Patch } from '../repair/patch.ts';

/** Hides or shows a part of what a repair or a layer puts on the picture; marks act one after another. */
export type RevealMark = { op: 'hide' | 'show' } & (
  { kind: 'stroke'; stroke: Stroke } | { kind: 'area'; shapes: Shape[]; feather: number }
);

function coverage(mark: RevealMark, box: Box): Float32Array {
  if (mark.kind === 'stroke') return strokeCoverage(mark.stroke, box);
  const area = rasterise(mark.shapes, box).data;
  if (mark.feather <= 0) return Float32Array.from(area, (v) => (v ? 1 : 0));
  // Soft outside the area, so that all of it is brought back or shown.
  const away = distanceTransform(area, box.width, box.height, 'inside');
  return away.map((d) => Math.max(0, 1 - d / (mark.feather + 1)));
}

/** How much is shown of each pixel of `box`, 0…1. Without marks everything is. */
export function revealed(marks: readonly RevealMark[], box: Box): Float32Array {
  const out = new Float32Array(box.width * box.height).fill(1);
  for (const mark of marks) {
    const c = coverage(mark, box);
    if (mark.op === 'hide') for (let i = 0; i < out.length; i++) out[i] *= 1 - c[i];
    else for (let i = 0; i < out.length; i++) out[i] += (1 - out[i]) * c[i];
  }
  return out;
}

/** A patch of which only what the marks show is left; its colours stay as they are. */
export function revealPatch(patch: Patch, marks: readonly RevealMark[]): Patch {
  if (!marks.length) return patch;
  const share = revealed(marks, patch);
  const data = patch.data.slice();
  const colours = colourChannels(patch.channels);
  for (let i = 0, o = colours; i < share.length; i++, o += patch.channels) data[o] = Math.round(data[o] * share[i]);
  return { ...patch, data };
}
