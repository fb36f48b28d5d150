import type { Point } from './shapes.ts';

/** Pixels ahead to the left and to the right of a corner, for the directions east, south, west, north. */
const AHEAD = [
  { left: [0, -1], right: [0, 0], step: [1, 0] },
  { left: [0, 0], right: [-1, 0], step: [0, 1] },
  { left: [-1, 0], right: [-1, -1], step: [-1, 0] },
  { left: [-1, -1], right: [0, -1], step: [0, -1] },
] as const;

/**
 * The outer outline of the 8-connected group of non-zero pixels that begins at the first one in reading order, along
 * pixel edges, so that rasterising it gives the group back with its holes filled. Offsets `x`, `y` are added.
 */
export function outlineOf(mask: Uint8Array, width: number, height: number, x = 0, y = 0): Point[] {
  const start = mask.findIndex((v) => v !== 0);
  if (start < 0) return [];
  const inside = (u: number, v: number) => u >= 0 && v >= 0 && u < width && v < height && mask[v * width + u] !== 0;
  const sx = start % width;
  const sy = (start - sx) / width;
  const out: Point[] = [];
  let cx = sx;
  let cy = sy;
  let d = 0;
  do {
    const { left, right } = AHEAD[d];
    let turned = d;
    if (inside(cx + left[0], cy + left[1])) turned = (d + 3) % 4;
    else if (!inside(cx + right[0], cy + right[1])) turned = (d + 1) % 4;
    if (turned !== d || out.length === 0) out.push([cx + x, cy + y]);
    d = turned;
    cx += AHEAD[d].step[0];
    cy += AHEAD[d].step[1];
  } while (cx !== sx || cy !== sy || out.length < 4);
  return out;
}

/**
 * Leaves out points of a line that lie within `tolerance` px of what remains.
 * Source: Douglas & Peucker, "Algorithms for the reduction of the number of points…", 1973.
 */
export function simplified(points: readonly Point[], tolerance: number): Point[] {
  if (points.length < 3) return points.slice();
  const keep = new Uint8Array(points.length);
  keep[0] = keep[points.length - 1] = 1;
  const todo: Array<[number, number]> = [[0, points.length - 1]];
  while (todo.length) {
    const [from, to] = todo.pop()!;
    const [ax, ay] = points[from];
    const [bx, by] = points[to];
    const span = Math.hypot(bx - ax, by - ay);
    let worst = tolerance;
    let at = -1;
    for (let i = from + 1; i < to; i++) {
      const [px, py] = points[i];
      const off =
        span < 1e-9 ? Math.hypot(px - ax, py - ay) : Math.abs((bx - ax) * (ay - py) - (ax - px) * (by - ay)) / span;
      if (off > worst) {
        worst = off;
        at = i;
      }
    }
    if (at < 0) continue;
    keep[at] = 1;
    todo.push([from, at], [at, to]);
  }
  return points.filter((_, i) => keep[i]);
}
