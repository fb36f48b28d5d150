import type { Box } from '../raster/raster.ts';

/**
 * The largest upright rectangle that holds no gap, exact to the px: for every row how far up it is free, and the largest rectangle under
 * those heights (a textbook method, linear in the number of px).
 * @param gaps 1 where nothing is
 * @returns an empty box where all is gap
 */
export function largestFree(gaps: Uint8Array, width: number, height: number): Box {
  const heights = new Int32Array(width + 1);
  const stack = new Int32Array(width + 1);
  let best: Box = { x: 0, y: 0, width: 0, height: 0 };
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) heights[x] = gaps[y * width + x] ? 0 : heights[x] + 1;
    let top = 0;
    for (let x = 0; x <= width; x++) {
      while (top > 0 && heights[stack[top - 1]] >= heights[x]) {
        const high = heights[stack[--top]];
        const left = top > 0 ? stack[top - 1] + 1 : 0;
        if (high * (x - left) > best.width * best.height)
          best = { x: left, y: y - high + 1, width: x - left, height: high };
      }
      stack[top++] = x;
    }
  }
  return best;
}
