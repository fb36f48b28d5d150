import type { Point, Shape } from '../mask/shapes.ts';
import type { Box } from '../raster/raster.ts';

/** Where a level line at a height crosses an outline. */
function crossings(points: readonly Point[], at: number): number[] {
  return points.flatMap(([x, y], n): number[] => {
    const [u, v] = points[(n + 1) % points.length];
    return y <= at !== v <= at ? [x + ((at - y) / (v - y)) * (u - x)] : [];
  });
}

/**
 * The place of a subject that is to stand on a third: at a share of its height, in the middle of its widest part there.
 * @param box the box around it, px
 * @param share 0 is its top
 */
export function focusOf(shapes: readonly Shape[], box: Box, share: number): Point {
  const y = box.y + share * box.height;
  let [from, to] = [box.x, box.x + box.width];
  let widest = 0;
  for (const shape of shapes) {
    if (shape.op !== 'add' || shape.kind !== 'outline') continue;
    const at = crossings(shape.points, y).sort((a, b) => a - b);
    for (let n = 0; n + 1 < at.length; n += 2)
      if (at[n + 1] - at[n] > widest) [from, to, widest] = [at[n], at[n + 1], at[n + 1] - at[n]];
  }
  return [(from + to) / 2, y];
}
