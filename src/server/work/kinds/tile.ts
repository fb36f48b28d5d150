import type { Box, Raster } from '../../../core/raster/raster.ts';
import { screenTile } from '../../images/screen.ts';
import type { Work } from '../work.ts';

interface Input {
  raster: Raster;
  /** what it is compared with: then their difference is shown */
  other?: Raster;
  box: Box;
  icc: Uint8Array | null;
  lossless: boolean;
}

/** One tile as a picture file for the browser. */
export const tile: Work<Input, { bytes: Uint8Array; type: string }> = {
  native: true,
  run: ({ raster, other, box, icc, lossless }) => screenTile(raster, other, box, icc, lossless),
};
