import { cropMask, spread } from '../../mask/mask.ts';
import { rasterise } from '../../mask/shapes.ts';
import { grow, type Box } from '../../raster/raster.ts';
import type { FillSpec } from '../spec.ts';

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
