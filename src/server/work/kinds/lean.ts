import { leanOf, LEVEL_SIDE, type Lean } from '../../../core/frame/level.ts';
import { halfPlane, lumaPlane, type Plane } from '../../../core/raster/luma.ts';
import type { Raster } from '../../../core/raster/raster.ts';
import type { Work } from '../work.ts';

/** How far a picture leans. */
export const lean: Work<{ raster: Raster }, { lean: Lean | null }> = {
  run({ raster }) {
    let plane: Plane = { width: raster.width, height: raster.height, data: lumaPlane(raster) };
    while (Math.max(plane.width, plane.height) > 1.4 * LEVEL_SIDE) plane = halfPlane(plane);
    return { lean: leanOf(plane) };
  },
};
