import { distanceTransform } from './distance.ts';
import { rasterise, type Shape } from './shapes.ts';
import { visitStroke, type Stroke } from './strokes.ts';
import { colourChannels, type Box } from '../raster/raster.ts';
import type { Patch } from '../raster/patch.ts';

/** Hides or shows a part of what a repair or a layer puts on the picture; marks act one after another. */
export type RevealMark = { op: 'hide' | 'show' } & (
  { kind: 'stroke'; stroke: Stroke } | { kind: 'area'; shapes: Shape[]; feather: number }
);

/** Visits the pixels of `box` that a mark covers, with how much. */
function visitMark(mark: RevealMark, box: Box, visit: (index: number, coverage: number) => void): void {
  if (mark.kind === 'stroke') return visitStroke(mark.stroke, box, visit);
  const area = rasterise(mark.shapes, box).data;
  if (mark.feather <= 0) return area.forEach((v, i) => v && visit(i, 1));
  // Soft outside the area, so that all of it is brought back or shown.
  const away = distanceTransform(area, box.width, box.height, 'inside');
  away.forEach((d, i) => visit(i, Math.fround(Math.max(0, 1 - d / (mark.feather + 1)))));
}

/** How much is shown of each pixel of `box`, 0…1. Without marks everything is. */
export function revealed(marks: readonly RevealMark[], box: Box): Float32Array {
  const out = new Float32Array(box.width * box.height).fill(1);
  for (const mark of marks) {
    const act =
      mark.op === 'hide'
        ? (i: number, c: number) => {
            out[i] *= 1 - c;
          }
        : (i: number, c: number) => {
            out[i] += (1 - out[i]) * c;
          };
    visitMark(mark, box, act);
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
