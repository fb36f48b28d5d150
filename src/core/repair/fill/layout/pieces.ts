import type { Box } from '../../../raster/raster.ts';
import type { Move } from './field.ts';
import type { Level } from './levels.ts';

/** A layout at one level, in the box of the cover: pieces laid by moves of their own. */
export interface Pieces {
  /** the cover's box in the window */
  box: Box;
  /** piece of each pixel of the box, −1 where nothing is covered */
  labels: Int32Array;
  moves: Move[];
}

/** Colour difference that stands for a place that cannot be read. */
export const UNREAD = 255;

/** Sum of absolute colour differences of two pixels of a level. */
export function colourDifference(pixels: Uint8Array, a: number, b: number): number {
  const p = 4 * a;
  const q = 4 * b;
  return (
    Math.abs(pixels[p] - pixels[q]) + Math.abs(pixels[p + 1] - pixels[q + 1]) + Math.abs(pixels[p + 2] - pixels[q + 2])
  );
}

/** A place of the window moved, or −1 outside. */
export function at(level: Level, x: number, y: number, move: Move): number {
  const u = x + move.x;
  const v = y + move.y;
  return u >= 0 && v >= 0 && u < level.width && v < level.height ? v * level.width + u : -1;
}
