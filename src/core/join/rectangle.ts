import { intersect, type Box } from '../raster/raster.ts';

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

/** Cells of the longer side among which it is looked for. */
const CELLS = 160;
/** px of the picture that a px which has to be made up must bring in. */
const WORTH = 4;

/**
 * The upright rectangle in between of all and of the largest without gaps: a gap is let in where it brings several times as much of the
 * picture. Found to a cell of a grid, exactly for that: the rectangle of the largest sum (Kadane's method for each pair of rows).
 * @param gaps 1 where nothing is
 */
export function largestWorth(gaps: Uint8Array, width: number, height: number): Box {
  const cell = Math.max(1, Math.ceil(Math.max(width, height) / CELLS));
  const [w, h] = [Math.ceil(width / cell), Math.ceil(height / cell)];
  const worth = new Float64Array(w * h);
  for (let y = 0, i = 0; y < height; y++) {
    const row = Math.floor(y / cell) * w;
    for (let x = 0; x < width; x++, i++) worth[row + Math.floor(x / cell)] += gaps[i] ? -WORTH : 1;
  }
  let best: Box = { x: 0, y: 0, width: 0, height: 0 };
  let most = 0;
  for (let top = 0; top < h; top++) {
    const sums = new Float64Array(w);
    for (let y = top; y < h; y++) {
      let [sum, from] = [0, 0];
      for (let x = 0; x < w; x++) {
        sums[x] += worth[y * w + x];
        if (sum <= 0) [sum, from] = [0, x];
        sum += sums[x];
        if (sum > most) [most, best] = [sum, { x: from, y: top, width: x - from + 1, height: y - top + 1 }];
      }
    }
  }
  const found = { x: best.x * cell, y: best.y * cell, width: best.width * cell, height: best.height * cell };
  return intersect(found, { x: 0, y: 0, width, height });
}
