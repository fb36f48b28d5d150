import { compositeOver, type Patch, type PatchLayer } from '../raster/patch.ts';
import { fullScale, hasAlpha, intersect, isEmpty, union, type Box, type Raster } from '../raster/raster.ts';
import type { Step } from './step.ts';

/** Visits the pixels of a box that a patch covers: number of the sample that holds its alpha, and of the pixel in the box. */
function visitCovered(patch: Patch, box: Box, visit: (from: number, to: number) => void): void {
  const part = intersect(patch, box);
  for (let y = part.y; y < part.y + part.height; y++) {
    let from = ((y - patch.y) * patch.width + part.x - patch.x + 1) * patch.channels - 1;
    let to = (y - box.y) * box.width + part.x - box.x;
    for (let x = 0; x < part.width; x++, from += patch.channels, to++) if (patch.data[from]) visit(from, to);
  }
}

/** Makes what patches cover in a gap opaque, in a picture with alpha of its own; beside gaps that alpha is left alone. */
function opaqueInGaps(out: Raster, gaps: Uint8Array, box: Box, layers: readonly PatchLayer[]): void {
  const top = fullScale(out.depth);
  for (const { patch, strength } of layers)
    visitCovered(patch, box, (from, to) => {
      if (!gaps[to]) return;
      const own = (to + 1) * out.channels - 1;
      out.data[own] = Math.round(out.data[own] + (patch.data[from] / top) * strength * (top - out.data[own]));
    });
}

/** Retouch: rendered repairs laid on, from the bottom up. What a repair covers is no gap any more. */
export function retouch(layers: readonly PatchLayer[]): Step {
  return {
    extent: (input) => layers.reduce<Box>((box, { patch }) => union(box, patch), input),
    needs: (box) => box,
    map: (point) => point,
    read(input, box) {
      const out = input.read(box);
      for (const { patch, strength } of layers) compositeOver(out, box, patch, strength);
      const gaps = hasAlpha(out.channels) ? input.gap(box) : null;
      if (gaps) opaqueInGaps(out, gaps, box, layers);
      return out;
    },
    gap(input, box) {
      const out = input.gap(box);
      if (!out) return null;
      for (const { patch, strength } of layers)
        if (strength > 0 && !isEmpty(intersect(patch, box))) visitCovered(patch, box, (_, to) => (out[to] = 0));
      return out.includes(1) ? out : null;
    },
  };
}
