import type { Point } from '../mask/shapes.ts';
import {
  createRaster,
  crop,
  fullScale,
  hasAlpha,
  intersect,
  isEmpty,
  paste,
  shiftBox,
  type Box,
  type Raster,
} from '../raster/raster.ts';

/**
 * Pixels that can be read by region, in the base's coordinates (px; the source's top-left corner is 0, 0). What lies beyond
 * `extent`, and what nobody put pixels on, is a *gap*.
 */
export interface Pixels {
  /** where there may be pixels */
  readonly extent: Box;
  readonly kind: Pick<Raster, 'channels' | 'depth'>;
  /** A copy of the pixels in any box; gaps are {@link fillGap filled} with mid grey, and are clear where there is alpha. */
  read(box: Box): Raster;
  /** 1 where a box is a gap, by rows; null where none of it is. */
  gap(box: Box): Uint8Array | null;
}

/**
 * A step of the chain *sources → scan → retouch → frame → finish*: pure, and read by region. Coordinates are px; what goes in
 * and what comes out may have different ones, which `map` connects.
 */
export interface Step {
  /** the box it covers, of the one that goes in */
  extent(input: Box): Box;
  /** what must be read of the input for a box of the output */
  needs(box: Box): Box;
  /** where a place of the input goes */
  map(point: Point): Point;
  /** pixels of the output in a box */
  read(input: Pixels, box: Box): Raster;
  /** 1 where a box of the output is a gap; null where none of it is */
  gap(input: Pixels, box: Box): Uint8Array | null;
}

/** A step that changes nothing: a stage for which nothing is set. */
export const PASS_THROUGH: Step = {
  extent: (input) => input,
  needs: (box) => box,
  map: (point) => point,
  read: (input, box) => input.read(box),
  gap: (input, box) => input.gap(box),
};

/** Pixels of nothing: mid grey, clear where there is alpha. */
export function fillGap(width: number, height: number, kind: Pick<Raster, 'channels' | 'depth'>): Raster {
  const out = createRaster(width, height, kind.channels, kind.depth);
  out.data.fill((fullScale(kind.depth) + 1) / 2);
  if (hasAlpha(kind.channels)) for (let i = kind.channels - 1; i < out.data.length; i += kind.channels) out.data[i] = 0;
  return out;
}

/** 1 where a box lies outside another, by rows; null where none of it does. */
function outside(box: Box, extent: Box): Uint8Array | null {
  const inner = intersect(box, extent);
  if (inner.width === box.width && inner.height === box.height) return null;
  const out = new Uint8Array(box.width * box.height).fill(1);
  if (isEmpty(inner)) return out;
  for (let y = inner.y - box.y; y < inner.y - box.y + inner.height; y++) {
    const from = y * box.width + inner.x - box.x;
    out.fill(0, from, from + inner.width);
  }
  return out;
}

/** A decoded file as the beginning of a chain; its top-left corner is 0, 0. */
export function pixelsOf(raster: Raster): Pixels {
  const { width, height, channels, depth } = raster;
  const extent = { x: 0, y: 0, width, height };
  return {
    extent,
    kind: { channels, depth },
    read(box) {
      const inner = intersect(box, extent);
      if (inner.width === box.width && inner.height === box.height) return crop(raster, box);
      const out = fillGap(box.width, box.height, raster);
      if (!isEmpty(inner)) paste(crop(raster, inner), out, shiftBox(inner, -box.x, -box.y));
      return out;
    },
    gap: (box) => outside(box, extent),
  };
}

/** The pixels of a chain: each step reads the one before it. */
export function chained(base: Pixels, steps: readonly Step[]): Pixels {
  return steps.reduce<Pixels>(
    (input, step) => ({
      extent: step.extent(input.extent),
      kind: input.kind,
      read: (box) => step.read(input, box),
      gap: (box) => step.gap(input, box),
    }),
    base,
  );
}

/** Where a place of the base goes through a chain. */
export const mapped = (steps: readonly Step[], point: Point): Point => steps.reduce((p, step) => step.map(p), point);

/** What must be read of the base for a box at the end of a chain. */
export const needed = (steps: readonly Step[], box: Box): Box => steps.reduceRight((b, step) => step.needs(b), box);
