import { allocateSamples, intersect, type Box, type Raster } from './raster.ts';

/** Side of a tile in px, at every level. */
export const TILE_SIDE = 512;

/** How often a picture is halved until it fits a tile. */
export function levelsFor(width: number, height: number): number {
  let levels = 0;
  while (Math.max(width, height) >> levels > TILE_SIDE) levels++;
  return levels;
}

/** Size of a level: each halving rounds up. */
export function levelSize(width: number, height: number, level: number): { width: number; height: number } {
  return { width: Math.ceil(width / 2 ** level), height: Math.ceil(height / 2 ** level) };
}

/** Empty levels 1 … n for a picture, in shared memory. */
export function allocatePyramid(base: Raster): Raster[] {
  return Array.from({ length: levelsFor(base.width, base.height) }, (_, i) => {
    const size = levelSize(base.width, base.height, i + 1);
    return { ...base, ...size, data: allocateSamples(size.width * size.height * base.channels, base.depth, true) };
  });
}

/** Averages 2 × 2 px of `from` into the part of `to` that stands for `box` (in px of `from`). Returns that part. */
export function halveInto(from: Raster, to: Raster, box: Box): Box {
  const c = from.channels;
  const part = intersect(
    {
      x: box.x >> 1,
      y: box.y >> 1,
      width: ((box.x + box.width + 1) >> 1) - (box.x >> 1),
      height: ((box.y + box.height + 1) >> 1) - (box.y >> 1),
    },
    { x: 0, y: 0, width: to.width, height: to.height },
  );
  for (let y = part.y; y < part.y + part.height; y++) {
    const r0 = 2 * y * from.width;
    const r1 = Math.min(2 * y + 1, from.height - 1) * from.width;
    for (let x = part.x; x < part.x + part.width; x++) {
      const x0 = 2 * x;
      const x1 = Math.min(x0 + 1, from.width - 1);
      const o = (y * to.width + x) * c;
      for (let k = 0; k < c; k++) {
        const d = from.data;
        to.data[o + k] =
          (d[(r0 + x0) * c + k] + d[(r0 + x1) * c + k] + d[(r1 + x0) * c + k] + d[(r1 + x1) * c + k] + 2) >> 2;
      }
    }
  }
  return part;
}

/** Brings all levels up to date after `box` of the base changed. */
export function refreshPyramid(base: Raster, levels: readonly Raster[], box: Box): void {
  let from = base;
  let part = box;
  for (const level of levels) {
    part = halveInto(from, level, part);
    from = level;
  }
}
