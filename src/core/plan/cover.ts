import { depthOf, boundsOf, coveredPixels, type Mask } from '../mask/mask.ts';
import { boundsWithin, rasterise, type Point, type Shape } from '../mask/shapes.ts';
import { isEmpty, type Box } from '../raster/raster.ts';
import { THIN_DEPTH } from '../repair/fill/settings.ts';

/** What is measured on a fault as it is marked. */
export interface FaultFacts {
  bounds: Box;
  /** covered pixels */
  area: number;
  /** px across at the widest place */
  width: number;
  /** the covered place nearest to the middle of its box: a wire that sags never passes through that */
  anchor: Point;
}

/** The covered pixel nearest to the middle of a mask's box. */
function anchorPointOf({ x, y, width, height, data }: Mask): Point {
  let anchor: Point = [x + width / 2, y + height / 2];
  let nearest = Infinity;
  for (let v = 0; v < height; v++) {
    for (let u = 0; u < width; u++) {
      const d = (u + 0.5 - width / 2) ** 2 + (v + 0.5 - height / 2) ** 2;
      if (!data[v * width + u] || d >= nearest) continue;
      nearest = d;
      anchor = [x + u + 0.5, y + v + 0.5];
    }
  }
  return anchor;
}

/** Least side in px of a close look, and how many times as large as the fault is across it may be. */
const LEAST_LOOK = 72;
const WIDEST_LOOK = 26;

/** Middle and side in px of a piece of the picture. */
export interface ThumbnailFrame {
  middle: Point;
  side: number;
}

/**
 * Piece of the picture that shows a fault so that it can be judged: all of it, or of a wire
 * or a fence, which would be thinner than a pixel then, a piece of it.
 */
export function thumbnailFrame({
  bounds,
  width,
  anchor,
}: Pick<FaultFacts, 'bounds' | 'width' | 'anchor'>): ThumbnailFrame {
  const whole = Math.max(LEAST_LOOK, Math.round(1.3 * Math.max(bounds.width, bounds.height)));
  const side = Math.min(whole, Math.max(LEAST_LOOK, Math.round(WIDEST_LOOK * width)));
  return { side, middle: side < whole ? anchor : [bounds.x + bounds.width / 2, bounds.y + bounds.height / 2] };
}

/** Measures a fault's shapes in an area of the picture; one that begins at 0, 0 where the area does not say where. */
export function measureFault(
  shapes: readonly Shape[],
  { x = 0, y = 0, width, height }: Partial<Box> & Pick<Box, 'width' | 'height'>,
): FaultFacts {
  const box = boundsWithin(shapes, { x, y, width, height });
  if (isEmpty(box)) return { bounds: box, area: 0, width: 0, anchor: [box.x, box.y] };
  const mask = rasterise(shapes, box);
  return {
    bounds: boundsOf(mask),
    area: coveredPixels(mask),
    width: Math.max(0, 2 * depthOf(mask) - 1),
    anchor: anchorPointOf(mask),
  };
}

/** Margin and feather in px for a cover, and why. */
export interface CoverProposal {
  margin: number;
  feather: number;
  reason: string;
}

/**
 * Proposes how far a cover exceeds its fault. The cover of a spot is 1.2 to 1.5 times the spot (common practice); a
 * strand gets a hard edge, since a soft one leaves a residue that the fill picks up (common practice).
 */
export function proposeCover(facts: Pick<FaultFacts, 'width'>): CoverProposal {
  const across = Math.max(1, facts.width);
  if (across <= 2 * THIN_DEPTH) {
    const margin = Math.max(1, Math.round(across * 0.15));
    return {
      margin,
      feather: 0,
      reason: `${Math.round(across)} px across: ${margin} px margin, hard edge so that no residue stays.`,
    };
  }
  const margin = Math.min(12, Math.max(2, Math.round(across * 0.1)));
  const feather = Math.min(6, Math.max(1, Math.round(across * 0.03)));
  return { margin, feather, reason: `${Math.round(across)} px across: ${margin} px margin, ${feather} px soft edge.` };
}
