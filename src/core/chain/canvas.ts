import type { Box } from '../raster/raster.ts';
import { PASS_THROUGH, type Step } from './step.ts';

/** Canvas: cuts the picture to a box, or lets it reach beyond the source, where it is a gap. Coordinates stay the base's. */
export const canvas = (box: Box): Step => ({ ...PASS_THROUGH, extent: () => box });
