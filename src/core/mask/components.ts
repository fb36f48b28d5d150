import type { Box } from '../raster/raster.ts';

/**
 * Boxes of 8-connected groups of non-zero pixels, in the order in which they begin from the top.
 * Source: labelling by runs, joined to those of the row above, after Rosenfeld & Pfaltz 1966, from memory.
 * @param join boxes within so many px of each other become one
 */
export function componentBoxes(mask: Uint8Array, width: number, height: number, join = 0): Box[] {
  // Runs of the row above and of this one: where each begins and ends, and its group.
  let [above, below] = [new Int32Array(3 * ((width >> 1) + 1)), new Int32Array(3 * ((width >> 1) + 1))];
  let many = 0;
  /** of each group the one that it was joined to, which began no later */
  const joined: number[] = [];
  const [x0, y0, x1, y1]: number[][] = [[], [], [], []];
  const rootOf = (n: number) => {
    while (joined[n] !== n) n = joined[n] = joined[joined[n]];
    return n;
  };
  const unite = (one: number, other: number) => {
    const [first, later] = one < other ? [one, other] : [other, one];
    joined[later] = first;
    x0[first] = Math.min(x0[first], x0[later]);
    x1[first] = Math.max(x1[first], x1[later]);
    y1[first] = Math.max(y1[first], y1[later]);
    return first;
  };
  for (let y = 0; y < height; y++) {
    const [from, to] = [y * width, (y + 1) * width];
    let [count, near] = [0, 0];
    for (let i = from; i < to; i++) {
      if (!mask[i]) continue;
      const left = i - from;
      while (i < to && mask[i]) i++;
      const right = i - from - 1;
      let group = -1;
      while (near < many && above[near + 1] < left - 1) near += 3;
      for (let k = near; k < many && above[k] <= right + 1; k += 3) {
        const root = rootOf(above[k + 2]);
        group = group < 0 || group === root ? root : unite(group, root);
      }
      if (group < 0) {
        group = joined.length;
        joined.push(group);
        x0.push(left);
        x1.push(right);
        y0.push(y);
        y1.push(y);
      } else {
        if (left < x0[group]) x0[group] = left;
        if (right > x1[group]) x1[group] = right;
        y1[group] = y;
      }
      below[count++] = left;
      below[count++] = right;
      below[count++] = group;
    }
    [above, below] = [below, above];
    many = count;
  }
  const boxes: Box[] = [];
  for (let n = 0; n < joined.length; n++)
    if (joined[n] === n) boxes.push({ x: x0[n], y: y0[n], width: x1[n] - x0[n] + 1, height: y1[n] - y0[n] + 1 });
  return join > 0 ? joinBoxes(boxes, join) : boxes;
}

/** Merges boxes that come within `reach` px of each other. */
function joinBoxes(boxes: Box[], reach: number): Box[] {
  const out = boxes.slice();
  for (let changed = true; changed;) {
    changed = false;
    for (let i = 0; i < out.length && !changed; i++) {
      for (let j = i + 1; j < out.length; j++) {
        const a = out[i];
        const b = out[j];
        if (a.x > b.x + b.width + reach || b.x > a.x + a.width + reach) continue;
        if (a.y > b.y + b.height + reach || b.y > a.y + a.height + reach) continue;
        const x = Math.min(a.x, b.x);
        const y = Math.min(a.y, b.y);
        out[i] = {
          x,
          y,
          width: Math.max(a.x + a.width, b.x + b.width) - x,
          height: Math.max(a.y + a.height, b.y + b.height) - y,
        };
        out.splice(j, 1);
        changed = true;
        break;
      }
    }
  }
  return out;
}
