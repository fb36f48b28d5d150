/**
 * The part of the window in which a layout is decided, as flat arrays. The window stands at the top; a mirrored copy, where donors may
 * be taken the other way round, stands below it in the same columns, so that a move is one step in memory either way.
 */
export interface Field {
  /** columns of the window and of its copy */
  width: number;
  /** rows of the window alone, and of all */
  height: number;
  rows: number;
  /** of the window and of its copy, `LANES` floats a pixel */
  features: Float32Array;
  /** 1 where pixels are known, in the window and in its copy */
  known: Uint8Array;
  /** 1 where pixels may be taken from */
  allowed: Uint8Array;
  /** covered pixels of the window */
  pixels: Int32Array;
  /** place of each pixel of the window in `pixels`, or −1 */
  index: Int32Array;
}

/** A move from a pixel to its donor, in px of a level; `y` may reach into a mirrored copy. */
export interface Move {
  x: number;
  y: number;
}

/** Where a move takes pixel `i` of the window, or −1 when that lies outside. */
export function moved(field: Field, i: number, move: Move): number {
  const x = (i % field.width) + move.x;
  const y = Math.floor(i / field.width) + move.y;
  return x >= 0 && x < field.width && y >= 0 && y < field.rows ? y * field.width + x : -1;
}

/** Where a move takes pixel `i` when a pixel may be taken there, else −1. */
export function donorOf(field: Field, i: number, move: Move): number {
  const d = moved(field, i, move);
  return d >= 0 && field.allowed[d] ? d : -1;
}

/** What stands for the distance to a pixel that is not known: like a change of ground. */
export const UNKNOWN_COST = 60;

/** Share of the cover, looked at in a few places, for which a move finds a donor. */
export function servedShare(field: Field, move: Move, places: number): number {
  const { pixels } = field;
  const step = Math.max(1, Math.floor(pixels.length / places));
  let served = 0;
  let all = 0;
  for (let n = step >> 1; n < pixels.length; n += step, all++) if (donorOf(field, pixels[n], move) >= 0) served++;
  return served / Math.max(1, all);
}

/** Whether two moves are all but the same. */
export const near = (a: Move, b: Move) => Math.abs(a.x - b.x) <= 1 && Math.abs(a.y - b.y) <= 1;
