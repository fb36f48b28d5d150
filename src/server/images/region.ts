import { crop, type Box, type Raster } from '../../core/raster/raster.ts';
import { compositeOver, type Patch } from '../../core/raster/patch.ts';

/** A box of the picture with patches laid on, from the bottom up. */
export function regionOf(
  original: Raster,
  box: Box,
  layers: ReadonlyArray<{ patch: Patch; strength: number }>,
): Raster {
  const region = crop(original, box);
  for (const { patch, strength } of layers) compositeOver(region, box, patch, strength);
  return region;
}
