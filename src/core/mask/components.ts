import type { Box } from '../raster/raster.ts';

/** Labels 8-connected groups of non-zero pixels; returns their boxes. */
export function componentBoxes(mask: Uint8Array, width: number, height: number, join = 0): Box[] {
  const seen = new Uint8Array(mask.length);
  const boxes: Box[] = [];
  const stack = new Int32Array(mask.length);
  for (let start = 0; start < mask.length; start++) {
    if (!mask[start] || seen[start]) continue;
    let x0 = width;
    let x1 = 0;
    let y0 = height;
    let y1 = 0;
    let top = 0;
    stack[top++] = start;
    seen[start] = 1;
    while (top) {
      const i = stack[--top];
      const x = i % width;
      const y = (i - x) / width;
      if (x < x0) x0 = x;
      if (x > x1) x1 = x;
      if (y < y0) y0 = y;
      if (y > y1) y1 = y;
      const [left, right] = [x > 0 ? -1 : 0, x < width - 1 ? 1 : 0];
      const last = y < height - 1 ? i + width : i;
      for (let row = y > 0 ? i - width : i; row <= last; row += width) {
        for (let j = row + left; j <= row + right; j++) {
          if (mask[j] && !seen[j]) {
            seen[j] = 1;
            stack[top++] = j;
          }
        }
      }
    }
    boxes.push({ x: x0, y: y0, width: x1 - x0 + 1, height: y1 - y0 + 1 });
  }
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
