import { colourChannels, fullScale, type Box, type Raster } from '../../raster/raster.ts';
import type { Sampled } from '../../raster/affine.ts';
import { emptyPatch, type Patch } from '../../raster/patch.ts';

/**
 * A patch from colours and coverage, each one a pixel of `box`. Where the coverage rounds to nothing, or the colour is not
 * valid, nothing is put down.
 */
export function patchOf(
  box: Box,
  picture: Pick<Raster, 'channels' | 'depth'>,
  { values, valid }: Sampled,
  coverage: Float32Array,
): Patch {
  const patch = emptyPatch(box, picture);
  const colours = colourChannels(picture.channels);
  const top = fullScale(picture.depth);
  for (let i = 0, o = 0; i < coverage.length; i++, o += patch.channels) {
    if (!valid[i]) continue;
    const alpha = Math.round(Math.min(1, coverage[i]) * top);
    if (alpha === 0) continue;
    for (let c = 0; c < colours; c++)
      patch.data[o + c] = Math.min(top, Math.max(0, Math.round(values[i * colours + c])));
    patch.data[o + colours] = alpha;
  }
  return patch;
}
