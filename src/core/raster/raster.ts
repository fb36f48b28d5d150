/** Bits a sample. Values of a 16-bit raster use the whole range 0…65535. */
export type Depth = 8 | 16;
/** 1 grey, 2 grey + alpha, 3 RGB, 4 RGB + alpha; samples are interleaved, rows top to bottom, no padding. */
export type Channels = 1 | 2 | 3 | 4;
export type Samples = Uint8Array | Uint16Array;

/** A whole picture or a piece of one, in its file's own colour space. */
export interface Raster {
  width: number;
  height: number;
  channels: Channels;
  depth: Depth;
  data: Samples;
}

/** A rectangle in pixels; `x`, `y` is its top-left corner, `width` and `height` count whole pixels. */
export interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** Greatest sample value at a depth. */
export const fullScale = (depth: Depth): number => (depth === 16 ? 65535 : 255);

/** Colour channels of a raster: its channels without alpha (1 or 3). */
export const colourChannels = (channels: Channels): 1 | 3 => (channels <= 2 ? 1 : 3);

export const hasAlpha = (channels: Channels): boolean => channels === 2 || channels === 4;

/** Zeroed samples for a size, optionally in memory that threads can share. */
export function allocateSamples(count: number, depth: Depth, shared = false): Samples {
  const bytes = count * (depth === 16 ? 2 : 1);
  const buffer = (shared ? new SharedArrayBuffer(bytes) : new ArrayBuffer(bytes)) as ArrayBuffer;
  return depth === 16 ? new Uint16Array(buffer) : new Uint8Array(buffer);
}

export function createRaster(width: number, height: number, channels: Channels, depth: Depth, data?: Samples): Raster {
  return { width, height, channels, depth, data: data ?? allocateSamples(width * height * channels, depth) };
}

/** The overlap of two boxes; width and height are 0 when they do not meet. */
export function intersect(a: Box, b: Box): Box {
  const x = Math.max(a.x, b.x);
  const y = Math.max(a.y, b.y);
  return {
    x,
    y,
    width: Math.max(0, Math.min(a.x + a.width, b.x + b.width) - x),
    height: Math.max(0, Math.min(a.y + a.height, b.y + b.height) - y),
  };
}

export const isEmpty = (box: Box): boolean => box.width <= 0 || box.height <= 0;

/** The smallest box around both; an empty box counts for nothing. */
export function union(a: Box, b: Box): Box {
  if (isEmpty(a)) return b;
  if (isEmpty(b)) return a;
  const x = Math.min(a.x, b.x);
  const y = Math.min(a.y, b.y);
  return {
    x,
    y,
    width: Math.max(a.x + a.width, b.x + b.width) - x,
    height: Math.max(a.y + a.height, b.y + b.height) - y,
  };
}

/** A box moved by so many pixels. */
export const shiftBox = (box: Box, dx: number, dy: number): Box => ({ ...box, x: box.x + dx, y: box.y + dy });

/** Whether a box lies wholly within another. */
export const contains = (outer: Box, inner: Box): boolean =>
  inner.x >= outer.x &&
  inner.y >= outer.y &&
  inner.x + inner.width <= outer.x + outer.width &&
  inner.y + inner.height <= outer.y + outer.height;

/** The box of a picture that begins at 0, 0. */
export const boxOf = ({ width, height }: { width: number; height: number }): Box => ({ x: 0, y: 0, width, height });

/** What of a box lies outside another, as at most four boxes: above and below over the whole width, the sides between. */
export function around(outer: Box, inner: Box): Box[] {
  const kept = intersect(outer, inner);
  if (isEmpty(kept)) return [outer];
  const [right, bottom] = [outer.x + outer.width, outer.y + outer.height];
  const [innerRight, innerBottom] = [kept.x + kept.width, kept.y + kept.height];
  return [
    { x: outer.x, y: outer.y, width: outer.width, height: kept.y - outer.y },
    { x: outer.x, y: innerBottom, width: outer.width, height: bottom - innerBottom },
    { x: outer.x, y: kept.y, width: kept.x - outer.x, height: kept.height },
    { x: innerRight, y: kept.y, width: right - innerRight, height: kept.height },
  ].filter((b) => !isEmpty(b));
}

/** A box grown by `by` pixels on each side. */
export const grow = ({ x, y, width, height }: Box, by: number): Box => ({
  x: x - by,
  y: y - by,
  width: width + 2 * by,
  height: height + 2 * by,
});

/** A box grown by `by` pixels on each side and cut to a picture of the given size. */
export const growWithin = (box: Box, by: number, width: number, height: number): Box =>
  intersect(grow(box, by), { x: 0, y: 0, width, height });

/**
 * A box of the given size around a place, in whole px, moved so that it lies on a picture and cut to it where it is larger.
 */
export function boxAround(
  [x, y]: readonly [number, number],
  size: { width: number; height: number },
  picture: Partial<Box> & Pick<Box, 'width' | 'height'>,
): Box {
  const [left, top] = [picture.x ?? 0, picture.y ?? 0];
  const width = Math.round(Math.min(size.width, picture.width));
  const height = Math.round(Math.min(size.height, picture.height));
  return {
    x: Math.round(Math.min(left + picture.width - width, Math.max(left, x - width / 2))),
    y: Math.round(Math.min(top + picture.height - height, Math.max(top, y - height / 2))),
    width,
    height,
  };
}

/** Copies a box of one-byte values, such as a mask, out of a plane `width` wide. */
export function cropPlane(plane: Uint8Array, width: number, box: Box): Uint8Array {
  const out = new Uint8Array(box.width * box.height);
  for (let y = 0; y < box.height; y++) {
    const from = (box.y + y) * width + box.x;
    out.set(plane.subarray(from, from + box.width), y * box.width);
  }
  return out;
}

/** Puts `part` into `whole` at the place of `box`, which has its size; both have the same channels and depth. */
export function paste(part: Raster, whole: Raster, box: Box): void {
  const row = box.width * part.channels;
  for (let y = 0; y < box.height; y++) {
    const to = ((box.y + y) * whole.width + box.x) * whole.channels;
    whole.data.set(part.data.subarray(y * row, (y + 1) * row), to);
  }
}

/** A copy of the part of `source` inside `box`, which must lie within it. */
export function crop(source: Raster, box: Box): Raster {
  const out = createRaster(box.width, box.height, source.channels, source.depth);
  const row = box.width * source.channels;
  for (let y = 0; y < box.height; y++) {
    const from = ((box.y + y) * source.width + box.x) * source.channels;
    out.data.set(source.data.subarray(from, from + row), y * row);
  }
  return out;
}
