import type { Sign } from '../../../core/check/finding.ts';
import { previewOf, type WayAsked } from '../../../core/plan/frame-ways.ts';
import { boxOf, type Raster } from '../../../core/raster/raster.ts';
import { screenTile } from '../../images/screen.ts';
import type { Work } from '../work.ts';

interface Input {
  /** the picture, reduced */
  raster: Raster;
  /** px of the picture a px of that */
  scale: number;
  asked: WayAsked & { rough?: boolean };
  icc: Uint8Array | null;
}

/** How a way to a canvas would look, reduced, as a picture file for the browser, and what would give it away. */
export const way: Work<Input, { bytes: Uint8Array; type: string; signs: Sign[] | null; longSide: number }> = {
  native: true,
  async run({ raster, scale, asked, icc }, progress) {
    const made = previewOf(raster, scale, asked, progress);
    const tile = await screenTile(made.raster, undefined, boxOf(made.raster), icc, false);
    return { ...tile, signs: made.signs, longSide: Math.max(made.raster.width, made.raster.height) };
  },
};
