import type { Level } from './levels.ts';

/** A copy begins at a multiple of so many rows, so that it is halved just as the window is, and at least so many below the window. */
const GRID = 256;
const APART = 64;

/**
 * A window with a copy of it beneath, left and right changed over, in the same columns: what goes on beside a picture's edge is often
 * best made of what lies before it, the other way round. Nothing is known between the two, and nothing covered in the copy.
 */
export function mirrored(level: Level): Level {
  const { width, height } = level;
  const beneath = Math.ceil((height + APART) / GRID) * GRID;
  const rows = beneath + height;
  const pixels = new Uint32Array(width * rows);
  both(new Uint32Array(level.pixels.buffer, level.pixels.byteOffset, width * height), pixels, width, beneath);
  const cover = new Uint8Array(width * rows);
  cover.set(level.cover);
  const known = both(level.known, new Uint8Array(width * rows), width, beneath);
  const allowed = both(level.allowed, new Uint8Array(width * rows), width, beneath);
  return { ...level, height: rows, beneath, pixels: new Uint8Array(pixels.buffer), cover, known, allowed };
}

/** Lays a plane into a higher one as it is, and changed over from a row on. */
function both<T extends Uint8Array | Uint32Array>(from: T, to: T, width: number, beneath: number): T {
  to.set(from);
  for (let i = 0, o = beneath * width; i < from.length; i += width, o += width)
    for (let x = 0; x < width; x++) to[o + x] = from[i + width - 1 - x];
  return to;
}

/** The window of a level without its copy; the same memory. */
export function windowAlone(level: Level): Level {
  if (!level.beneath) return level;
  const { beneath, ...rest } = level;
  const { width, pixels, cover, known, allowed } = level;
  const height = level.height - beneath;
  const end = width * height;
  const part = (plane: Uint8Array) => plane.subarray(0, end);
  return {
    ...rest,
    height,
    pixels: pixels.subarray(0, 4 * end),
    cover: part(cover),
    known: part(known),
    allowed: part(allowed),
  };
}

/** The place of the window, as column and row, that is shown at a place of it or of its copy. */
export function shownAt(width: number, beneath: number | undefined, x: number, y: number): [x: number, y: number] {
  return beneath && y >= beneath ? [width - 1 - x, y - beneath] : [x, y];
}
