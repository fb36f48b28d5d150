import type { Raster } from '../../../core/raster/raster.ts';
import { screenAttention } from '../../images/screen.ts';
import type { Work } from '../work.ts';

/** What draws the eye, as a picture file. */
export const attention: Work<{ raster: Raster }, { bytes: Uint8Array }> = {
  native: true,
  run: async ({ raster }) => ({ bytes: await screenAttention(raster) }),
};
