import type { Box } from '../../raster/raster.ts';

/** How far around a cover a donor is looked for, px. */
export const searchReach = (cover: Pick<Box, 'width' | 'height'>): number =>
  Math.min(700, Math.max(60, 2.5 * Math.max(cover.width, cover.height)));
