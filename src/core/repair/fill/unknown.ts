import { cropMask, spread, type Mask } from '../../mask/mask.ts';
import { rasterise } from '../../mask/shapes.ts';
import { grow, type Box } from '../../raster/raster.ts';
import type { FillSpec } from '../spec.ts';

/** Share of a cover that may lie under other faults; of what they hide more of, nothing is spared. */
const SPARED = 0.5;

/**
 * What of a cover lies under other faults and is left to their repairs, within a frame; null where nothing is. Margins of theirs are
 * not left: a soft edge of their repairs must stand on what this one fills.
 */
export function sparedIn({ avoid, spares }: Pick<FillSpec, 'avoid' | 'spares'>, cover: Mask): Uint8Array | null {
  if (!spares || !avoid.length) return null;
  const spared = rasterise(avoid, cover).data;
  let [covered, under] = [0, 0];
  for (let i = 0; i < spared.length; i++) {
    if (!cover.data[i]) continue;
    covered++;
    if (spared[i]) under++;
  }
  return under && under <= SPARED * covered ? spared : null;
}

/** What says nothing of a place within a frame: other faults with their margins, and gaps; undefined where there is none of it. */
export function unknownIn(
  { avoid, avoidMargin = 0 }: Pick<FillSpec, 'avoid' | 'avoidMargin'>,
  frame: Box,
  gaps: Uint8Array | null | undefined,
): Uint8Array | undefined {
  if (!avoid.length) return gaps ?? undefined;
  // A fault that ends beside the frame reaches into it with its margin.
  const around = grow(frame, Math.ceil(avoidMargin));
  const faults = cropMask(spread(rasterise(avoid, around), around, avoidMargin, 0), frame).data;
  for (let i = 0; i < faults.length; i++) faults[i] = faults[i] || gaps?.[i] ? 1 : 0;
  return faults.includes(1) ? faults : undefined;
}
