import { contoursOf } from '../repair/lift/contour.ts';
import { lumaPlane } from '../raster/luma.ts';
import { crop, growWithin, type Box, type Raster } from '../raster/raster.ts';
import { bandAlong, type Band, type Window } from './band.ts';

/** px around a cover that are read with it, at least and at most: as far as what was taken from beside it is looked for. */
const NEAR = 40;
const FAR = 96;
/** px around a cover that are read with it: of a small one less. */
export const aroundOf = ({ width, height }: Pick<Box, 'width' | 'height'>): number =>
  Math.min(FAR, Math.max(NEAR, width, height));
/** Samples of borders that are looked at, at most: of a mesh the longest. */
const MOST_ROWS = 6_000;

/** A place that was repaired, as checks see it. */
export interface Place extends Window {
  /** px of the picture that are read */
  frame: Box;
  /** luma of the window as it is, 0 to 255 */
  luma: Float32Array;
  bands: Band[];
}

/** What is known of a picture that is checked. */
export interface Pictures {
  after: Raster;
  /** before any repair; same size */
  before?: Raster;
}

/** A part of a plane of the picture. */
const partOf = (plane: Uint8Array, width: number, box: Box): Uint8Array => {
  const out = new Uint8Array(box.width * box.height);
  for (let y = 0; y < box.height; y++) {
    const from = (box.y + y) * width + box.x;
    out.set(plane.subarray(from, from + box.width), y * box.width);
  }
  return out;
};

/**
 * Reads one place.
 * @param what over the picture: 1 under the cover of this place, 2 where pixels say nothing of it (other covers, open faults)
 * @param cover box of this place's cover
 */
export function placeOf({ after, before }: Pictures, what: Uint8Array, cover: Box): Place {
  const frame = growWithin(cover, aroundOf(cover), after.width, after.height);
  const own = partOf(what, after.width, frame);
  const window: Window = {
    after: crop(after, frame),
    ...(before && { before: crop(before, frame) }),
    width: frame.width,
    height: frame.height,
    what: own,
  };
  return placeIn(window, frame);
}

/** A place whose window is read already. @param frame where the window lies */
export function placeIn(window: Window, frame: Box): Place {
  const { width, height, what } = window;
  const mask = what.map((v) => (v === 1 ? 1 : 0));
  let rows = 0;
  const contours = contoursOf(mask, width, height).filter((c) => (rows += c.count) <= MOST_ROWS || rows === c.count);
  const bands = contours.map((c) => bandAlong(window, c));
  return { ...window, frame, luma: lumaPlane(window.after), bands };
}

/** A box of a place's window in px of the picture, within it. */
export function inPicture({ frame, width, height }: Place, box: Box): Box {
  const [x, y] = [Math.max(0, box.x), Math.max(0, box.y)];
  const right = Math.min(width, box.x + box.width);
  const bottom = Math.min(height, box.y + box.height);
  return { x: frame.x + x, y: frame.y + y, width: Math.max(1, right - x), height: Math.max(1, bottom - y) };
}
