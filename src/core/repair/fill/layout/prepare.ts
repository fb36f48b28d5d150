import { boundsOf } from '../../../mask/mask.ts';
import { crop, cropPlane, growWithin, isEmpty, type Box, type Raster } from '../../../raster/raster.ts';
import { reachOf } from '../settings.ts';
import { levelWhereAcross } from './decide.ts';
import { coveredIn, finestLevel, halveLevel, type Level } from './levels.ts';

/** Size of the cover (square root of its area, px) at the level where a layout is decided. */
const DECIDED_ACROSS = 60;

/** What a layout is decided and carried out on. */
export interface LayoutRegion {
  picture: Raster;
  /** 1 where pixels are to be found */
  cover: Uint8Array;
  /** 1 where a pixel may be looked at; 0 on the cover and on what else is not to count. Default: all that is not covered */
  known?: Uint8Array;
  /** 1 where pixels may be taken from; only known ones */
  allowed: Uint8Array;
}

/** The part of a picture that a layout of a cover looks at. */
function layoutWindow(cover: Uint8Array, width: number, height: number): Box {
  const bounds = boundsOf({ x: 0, y: 0, width, height, data: cover });
  if (isEmpty(bounds)) return bounds;
  const across = Math.max(Math.sqrt(coveredIn(cover)), Math.min(bounds.width, bounds.height));
  return growWithin(bounds, reachOf('first', across), width, height);
}

/** A window's resolutions, and the level at which its layout is decided. */
export interface Resolutions {
  levels: Level[];
  at: number;
}

/** Halves a window until its layout can be decided, and twice more where that leaves anything. */
export function resolutionsOf(finest: Level): Resolutions {
  const levels = [finest];
  for (;;) {
    const last = levels[levels.length - 1];
    const at = levelWhereAcross(levels, DECIDED_ACROSS);
    const decided = Math.sqrt(coveredIn(last.cover)) <= DECIDED_ACROSS;
    if ((decided && levels.length > at + 2) || Math.min(last.width, last.height) < 24) return { levels, at };
    levels.push(halveLevel(last));
  }
}

/** A cover's window, cut out of the picture. */
export interface Prepared extends Resolutions {
  window: Box;
  picture: Raster;
}

export function prepare({ picture, cover, known, allowed }: LayoutRegion): Prepared {
  const window = layoutWindow(cover, picture.width, picture.height);
  const part = (plane: Uint8Array) => cropPlane(plane, picture.width, window);
  const own = part(cover);
  const cut = crop(picture, window);
  const seen = known ? part(known) : own.map((v) => 1 - v);
  return { window, picture: cut, ...resolutionsOf(finestLevel(cut, own, seen, part(allowed))) };
}
