import type { Box } from '../../raster/raster.ts';

/** Times its width that a cover must be long to be laid out stretch by stretch, and how long each is. */
const LONG = 5;
const STRETCH = 2.5;

/**
 * Cuts the box of a long narrow cover, as of a pole, into stretches along its longer side, so that each is laid out by what lies on
 * both sides of it; any other box is left whole.
 * @param plane 1 on the cover, `width` a row
 */
export function stretchesOf(plane: Uint8Array, width: number, box: Box): Box[] {
  let area = 0;
  for (let y = box.y; y < box.y + box.height; y++)
    for (let i = y * width + box.x, end = i + box.width; i < end; i++) area += plane[i];
  const upright = box.height >= box.width;
  const long = upright ? box.height : box.width;
  const across = area / long;
  if (long < LONG * across) return [box];
  const count = Math.round(long / (STRETCH * across));
  return Array.from({ length: count }, (_, n) => {
    const from = Math.round((n * long) / count);
    const size = Math.round(((n + 1) * long) / count) - from;
    return upright ? { ...box, y: box.y + from, height: size } : { ...box, x: box.x + from, width: size };
  });
}
