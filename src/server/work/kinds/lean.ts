import { leanOf, type Lean } from '../../../core/frame/level.ts';
import { lumaPlane } from '../../../core/raster/luma.ts';
import type { Raster } from '../../../core/raster/raster.ts';
import type { Work } from '../work.ts';

/** How far a picture leans. */
export const lean: Work<{ raster: Raster }, { lean: Lean | null }> = {
  run: ({ raster }) => ({ lean: leanOf({ width: raster.width, height: raster.height, data: lumaPlane(raster) }) }),
};
