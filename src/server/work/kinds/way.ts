import type { Sign } from '../../../core/check/finding.ts';
import { previewOf, type WayAsked } from '../../../core/plan/frame-ways.ts';
import type { Raster } from '../../../core/raster/raster.ts';
import type { Work } from '../work.ts';

interface Input {
  /** the picture, reduced */
  raster: Raster;
  /** px of the picture a px of that */
  scale: number;
  asked: WayAsked;
}

/** How a way to a canvas would look, reduced, and what would give it away. */
export const way: Work<Input, { raster: Raster; signs: Sign[] }> = {
  run: ({ raster, scale, asked }, progress) => previewOf(raster, scale, asked, progress),
};
