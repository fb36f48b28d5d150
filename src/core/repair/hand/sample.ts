import type { Point } from '../../mask/shapes.ts';
import { applyAffine, sampleAffine, sampleAt, sourceBox, type Affine, type Sampled } from '../../raster/affine.ts';
import { isEmpty, type Box } from '../../raster/raster.ts';
import type { Beneath } from '../method.ts';

/** Leaves out what was sampled from a gap. */
function withoutGaps(
  gaps: Uint8Array | null | undefined,
  at: Box,
  sampled: Sampled,
  target: Box,
  place: (x: number, y: number) => Point,
): Sampled {
  if (!gaps) return sampled;
  for (let y = 0, i = 0; y < target.height; y++) {
    for (let x = 0; x < target.width; x++, i++) {
      if (!sampled.valid[i]) continue;
      const [px, py] = place(target.x + x + 0.5, target.y + y + 0.5);
      const u = Math.min(at.width - 1, Math.max(0, Math.floor(px) - at.x));
      const v = Math.min(at.height - 1, Math.max(0, Math.floor(py) - at.y));
      if (gaps[v * at.width + u]) sampled.valid[i] = 0;
    }
  }
  return sampled;
}

/** {@link sampleAffine} of what lies beneath a repair; gaps give nothing. */
export function sampleBeneath(beneath: Beneath, map: Affine, target: Box, wanted?: ArrayLike<number>): Sampled {
  const sampled = sampleAffine(beneath.read, beneath, map, target, wanted);
  if (!beneath.gap) return sampled;
  const at = sourceBox(map, target, beneath.width, beneath.height);
  if (isEmpty(at)) return sampled;
  return withoutGaps(beneath.gap(at), at, sampled, target, (x, y) => applyAffine(map, x, y));
}

/** {@link sampleAt} of a box of what lies beneath a repair; gaps give nothing. */
export function sampleBent(
  beneath: Beneath,
  at: Box,
  target: Box,
  place: (x: number, y: number) => Point,
  stretch: number,
): Sampled {
  const sampled = sampleAt(beneath.read(at), at, beneath, target, (x, y, out) => out.set(place(x, y)), stretch);
  return withoutGaps(beneath.gap?.(at), at, sampled, target, place);
}

/** Lets gaps beside a cover take no part in its tone. */
export function leaveGaps(sampled: Sampled, gaps: Uint8Array | null | undefined, cover: Uint8Array): void {
  if (gaps) for (let i = 0; i < gaps.length; i++) if (gaps[i] && !cover[i]) sampled.valid[i] = 0;
}
