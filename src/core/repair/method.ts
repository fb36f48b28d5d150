import type { Box, Raster } from '../raster/raster.ts';
import type { Patch } from '../raster/patch.ts';

/** The picture as it stands beneath a repair. Methods are given one that begins at 0, 0, and specs that are moved there. */
export interface Beneath {
  /** its top-left corner in the base's coordinates, px; 0 where left out */
  x?: number;
  y?: number;
  width: number;
  height: number;
  /** A copy of the pixels inside a box that lies within the picture. */
  read(box: Box): Raster;
  /** 1 where a box is a gap, canvas without pixels, which is never taken from; null where none of it is */
  gap?(box: Box): Uint8Array | null;
  /** a layer that came with the picture's file, counted from the bottom */
  given?(index: number): Patch | undefined;
}

/** A rendered repair and the sentence that says how it was done. */
export interface Rendered {
  patch: Patch;
  reason: string;
}

/** A part of a rendering that was worked out ahead: pixels, and where their top-left corner lies in the picture. */
export interface Piece {
  x: number;
  y: number;
  raster: Raster;
}

/** One of several equal shares of some work. */
export interface Share {
  index: number;
  of: number;
}

/** A way of repairing. `render` is pure: same pixels beneath, same spec, same bytes. */
export interface RepairMethod<Spec> {
  method: string;
  /** grows whenever the same spec over the same pixels gives other bytes than before; default 1 */
  version?: number;
  /** The same spec for a picture whose corner lies elsewhere: every place in it is moved by so many px. */
  shift(spec: Spec, dx: number, dy: number): Spec;
  /** Everything that `render` may read; it decides what makes a repair stale. */
  readBox(spec: Spec, width: number, height: number): Box;
  /** How the repair will about look, in about a second whatever its size; null where it is rendered as fast. */
  sketch?(beneath: Beneath, spec: Spec): Patch | null;
  /** Whether several threads had better divide the work that can be done ahead of rendering. */
  divides?(spec: Spec, width: number, height: number): boolean;
  /** One share of that work. */
  ahead?(beneath: Beneath, spec: Spec, share: Share, onProgress?: (done: number) => void): Piece[];
  /**
   * @param pieces what {@link ahead} gave, all shares; the bytes are the same with and without
   * @throws Error with a message for the user.
   */
  render(beneath: Beneath, spec: Spec, onProgress?: (done: number) => void, pieces?: readonly Piece[]): Rendered;
}
