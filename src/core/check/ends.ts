import { distanceTransform } from '../mask/distance.ts';
import { boundsWithin, rasterise, shiftPoints, type Shape } from '../mask/shapes.ts';
import { toFloat4 } from '../raster/planes.ts';
import { colourChannels, crop, growWithin, isEmpty, shiftBox, type Box, type Raster } from '../raster/raster.ts';
import { contoursOf, lineThrough, type Contour } from '../repair/lift/contour.ts';
import { REACH, type Known } from '../repair/lift/unwrapped.ts';
import { edgesAlong, endsOf, type Ends } from './reach.ts';

/** A line and its other side: contours along both edges of a strand, their normals outwards. */
function sidesOf(points: ReadonlyArray<readonly [number, number]>, half: number): Contour[] {
  const line = lineThrough(points);
  if (line.count < 4) return [];
  return [1, -1].map((side) => ({
    ...line,
    x: line.x.map((v, i) => v + side * half * line.nx[i]),
    y: line.y.map((v, i) => v + side * half * line.ny[i]),
    nx: line.nx.map((v) => side * v),
    ny: line.ny.map((v) => side * v),
  }));
}

/** px of the smaller side of a box of which every one is looked at to tell how deep a mask is. */
const FINELY = 128;

/** Deepest place of a mask within a box of it, px; of a large one to some px. */
function depthIn(mask: Uint8Array, width: number, height: number, box: Box): number {
  const { x, y, width: wide, height: high } = growWithin(box, 1, width, height);
  const step = Math.max(1, Math.floor(Math.min(wide, high) / FINELY));
  const [columns, rows] = [Math.ceil(wide / step), Math.ceil(high / step)];
  const small = new Uint8Array(columns * rows);
  for (let v = 0, i = 0; v < rows; v++)
    for (let u = 0; u < columns; u++, i++) small[i] = mask[(y + v * step) * width + x + u * step];
  let most = 0;
  for (const depth of distanceTransform(small, columns, rows, 'outside')) if (depth > most) most = depth;
  return most * step;
}

/** px that the soft edge of a strand runs on at most, beside its width; and that of an area, or as far as it is deep. */
const STRAND_SOFT = 6;
const AREA_SOFT = 24;
/** Shapes of a fault up to which it is measured where it ends. */
const MOST_SHAPES = 24;
/** Radius in px below which a place is a spot, measured around its middle; and how many times as long as deep it is for it to be a line. */
const SPOT = 7;
const LINE = 16;

/**
 * Measures where a fault ends beside its mark, from the pixels around it: each strand along both its sides, areas along their outlines.
 * @param avoid other faults, which say nothing of it
 * @param thin whether outlines that are as thin as a strand are measured too
 * @returns null where nothing stands out, or the mark is too small to tell
 */
export function measureEnds(
  picture: Raster,
  shapes: readonly Shape[],
  avoid: readonly Shape[] = [],
  thin = false,
): Ends | null {
  const box = boundsWithin(shapes, { x: 0, y: 0, width: picture.width, height: picture.height });
  // A mesh is measured strand by strand when it is completed.
  if (isEmpty(box) || shapes.length > MOST_SHAPES) return null;
  const frame = growWithin(box, REACH, picture.width, picture.height);
  const part = crop(picture, frame);
  const unknown = avoid.length ? rasterise(avoid, frame).data : new Uint8Array(frame.width * frame.height);
  const known: Known = {
    image: toFloat4(part),
    width: frame.width,
    height: frame.height,
    channels: colourChannels(part.channels),
    unknown,
  };
  const strands = shapes.filter((s) => s.kind === 'strand' && s.op === 'add');
  if (strands.length && strands.length === shapes.length) {
    const sides = strands.flatMap((s) =>
      s.kind === 'strand' ? sidesOf(shiftPoints(s.points, -frame.x, -frame.y), s.size / 2) : [],
    );
    const across = Math.max(...strands.map((s) => (s.kind === 'strand' ? s.size : 0)));
    const how = { core: Math.max(1, Math.round(across / 2)), most: STRAND_SOFT + across };
    return sides.length ? endsOf(edgesAlong(known, sides, how)) : null;
  }
  const mask = rasterise(shapes, frame).data;
  for (let i = 0; i < mask.length; i++) if (mask[i]) mask[i] = 1;
  const depth = depthIn(mask, frame.width, frame.height, shiftBox(box, -frame.x, -frame.y));
  const line = depth < SPOT && Math.hypot(box.width, box.height) >= LINE * depth;
  if (depth < SPOT && !(thin && line)) return null;
  const contours = contoursOf(mask, frame.width, frame.height);
  if (line) {
    const inside = { core: Math.max(1, Math.round(depth - 0.5)), most: STRAND_SOFT + 2 * depth };
    const ends = contours.length ? endsOf(edgesAlong(known, contours, inside)) : null;
    return ends && { ...ends, thin: true };
  }
  const how = { core: Math.max(2, Math.round(0.7 * depth)), most: Math.max(AREA_SOFT, 1.3 * depth) };
  return contours.length ? endsOf(edgesAlong(known, contours, how)) : null;
}
