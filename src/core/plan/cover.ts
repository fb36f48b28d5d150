import { depthOf, boundsOf, coveredPixels } from '../mask/mask.ts';
import { boundsOfShapes, rasterise, type Shape } from '../mask/shapes.ts';
import { isEmpty, type Box } from '../raster/raster.ts';
import { THIN_DEPTH } from '../repair/fill/settings.ts';

/** What is measured on a fault as it is marked. */
export interface FaultFacts {
  bounds: Box;
  /** covered pixels */
  area: number;
  /** px across at the widest place */
  width: number;
}

/** Measures a fault's shapes on a picture of the given size. */
export function measureFault(shapes: readonly Shape[], width: number, height: number): FaultFacts {
  const box = boundsOfShapes(shapes, width, height);
  if (isEmpty(box)) return { bounds: box, area: 0, width: 0 };
  const mask = rasterise(shapes, box);
  return { bounds: boundsOf(mask), area: coveredPixels(mask), width: Math.max(0, 2 * depthOf(mask) - 1) };
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
