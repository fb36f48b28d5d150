import {
  allocateSamples,
  createRaster,
  colourChannels,
  fullScale,
  intersect,
  isEmpty,
  type Box,
  type Depth,
  type Raster,
  type Samples,
} from './raster.ts';

/**
 * What a repair puts on the picture: a box of colour and alpha samples at the picture's depth, in its colour space
 * (grey + alpha or RGB + alpha, interleaved). Alpha is the cover; strength is applied when it is laid on.
 */
export interface Patch extends Box {
  channels: 2 | 4;
  depth: Depth;
  data: Samples;
}

/** A patch as it lies on the picture; `strength` 0…1. */
export interface PatchLayer {
  patch: Patch;
  strength: number;
}

/** A patch of nothing over `box`, ready to be written. */
export function emptyPatch(box: Box, picture: Pick<Raster, 'channels' | 'depth'>, shared = false): Patch {
  const channels: 2 | 4 = colourChannels(picture.channels) === 1 ? 2 : 4;
  return {
    ...box,
    channels,
    depth: picture.depth,
    data: allocateSamples(box.width * box.height * channels, picture.depth, shared),
  };
}

/**
 * Lays a patch over a region of the picture (Porter–Duff *over*; the picture's own alpha is left alone). Samples where
 * alpha × strength is 0 keep every bit; where it is 1 they become the patch's.
 *
 * @param target the region, changed in place; its top-left corner lies at `at` in the picture
 * @param strength 0…1
 */
export function compositeOver(target: Raster, at: { x: number; y: number }, patch: Patch, strength: number): void {
  const region = intersect({ x: at.x, y: at.y, width: target.width, height: target.height }, patch);
  if (isEmpty(region) || strength <= 0) return;
  const colours = patch.channels - 1;
  const top = fullScale(patch.depth);
  for (let y = region.y; y < region.y + region.height; y++) {
    let from = ((y - patch.y) * patch.width + region.x - patch.x) * patch.channels;
    let to = ((y - at.y) * target.width + region.x - at.x) * target.channels;
    for (let x = 0; x < region.width; x++, from += patch.channels, to += target.channels) {
      const alpha = patch.data[from + colours];
      if (alpha === 0) continue;
      const share = (alpha / top) * strength;
      if (share >= 1) for (let c = 0; c < colours; c++) target.data[to + c] = patch.data[from + c];
      else
        for (let c = 0; c < colours; c++) {
          const beneath = target.data[to + c];
          target.data[to + c] = Math.round(beneath + (patch.data[from + c] - beneath) * share);
        }
    }
  }
}

/**
 * Patches alone on mid grey, as one tile of a level of the view: each pixel shows the middle one of those it stands for.
 * @param box the tile in pixels of its level; level n is halved n times
 */
export function changesOn(
  kind: Pick<Raster, 'channels' | 'depth'>,
  box: Box,
  level: number,
  layers: ReadonlyArray<{ patch: Patch; strength: number }>,
): Raster {
  const colours = colourChannels(kind.channels);
  const out = createRaster(box.width, box.height, colours, kind.depth);
  out.data.fill(Math.round(fullScale(kind.depth) / 2));
  const middle = level > 0 ? 1 << (level - 1) : 0;
  for (let y = 0; y < box.height; y++) {
    for (let x = 0; x < box.width; x++) {
      const at = { x: ((box.x + x) << level) + middle, y: ((box.y + y) << level) + middle };
      const o = (y * box.width + x) * colours;
      const pixel: Raster = {
        width: 1,
        height: 1,
        channels: colours,
        depth: kind.depth,
        data: out.data.subarray(o, o + colours),
      };
      for (const { patch, strength } of layers) compositeOver(pixel, at, patch, strength);
    }
  }
  return out;
}
