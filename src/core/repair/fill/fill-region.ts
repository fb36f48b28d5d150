import { growWithin, type Box, type Raster } from '../../raster/raster.ts';
import type { Guides } from './grounds/guides.ts';

/** A region of a picture and what is to be filled in it. */
export interface FillRegion {
  picture: Raster;
  /** non-zero where pixels are replaced, in any strength */
  cover: Uint8Array;
  /** 1 where pixels say nothing of this place and stay as they are: other faults, canvas without pixels */
  unknown?: Uint8Array;
  /** 1 where donors may be taken from; the cover is left out in any case */
  allowed?: Uint8Array;
  /** somebody has said where donors are taken from */
  chosen?: boolean;
  /** what somebody says about edges and grounds inside the cover */
  guides?: Guides;
  /** what stands on the ground goes on beside itself: donors are best taken from as high up as they are laid */
  level?: boolean;
  /** layouts are decided in half the time, a little less well */
  quick?: boolean;
}

/**
 * What of a picture is looked at around a box, by so many px to each side; for a side that was added to a picture, all across it: what
 * goes on there may be like what is at the other end.
 */
export function lookedAt(box: Box, reach: number, width: number, height: number, level = false): Box {
  const around = growWithin(box, reach, width, height);
  return level ? { ...around, x: 0, width } : around;
}

/** Size in px by which a layout's reach is measured: the side of a square as large as the cover's box. */
export const layoutSize = ({ width, height }: { width: number; height: number }): number => Math.sqrt(width * height);
