import type { Point } from '../../mask/shapes.ts';

/** A strand as it runs through the picture. */
export interface TracedStrand {
  /** the centre line, px */
  points: Point[];
  /** px across at each point */
  widths: number[];
  /** median of the widths */
  width: number;
  /** softness of its edges: standard deviation in px of the blur that would make them so, median along it */
  blur: number;
  /** the same at each point, as it is for a good way along it; empty when that is not known */
  blurs: number[];
  /** how much darker (below 0) or lighter than its ground it is, levels of 255, median of the magnitude with the usual sign */
  contrast: number;
  /** length of the centre line, px */
  length: number;
  /** 0 to 1: share of the line along which it really stands out from its ground */
  certainty: number;
  /** px by which the edges may lie farther out at each point than they were measured; empty when that is not known */
  unsure: number[];
  /** px from the centre line to where nothing of it is seen any more, left and right of each point, where that was measured */
  reaches?: [left: number[], right: number[]];
}
