import { grow, intersect, isEmpty, union, type Box } from '../raster/raster.ts';
import { emptyMask, type Mask } from './mask.ts';

/** A place on the picture in px; pixel centres lie at .5. */
export type Point = [x: number, y: number];

/**
 * One stroke of marking. A cover is a list of them, applied in order: `add` covers, `take` uncovers. They are kept
 * instead of pixels, so that a cover can be changed for ever and costs next to nothing.
 */
export type Shape = { op: 'add' | 'take' } & (
  | { kind: 'outline'; points: Point[] }
  | { kind: 'box'; x: number; y: number; width: number; height: number }
  | { kind: 'brush'; points: Point[]; size: number }
  | { kind: 'strand'; points: Point[]; size: number }
);

/** A box as a shape that covers it. */
export const boxShape = ({ x, y, width, height }: Box): Shape => ({ op: 'add', kind: 'box', x, y, width, height });

function boundsOfShape(shape: Shape): Box {
  if (shape.kind === 'box') {
    const x = Math.floor(shape.x);
    const y = Math.floor(shape.y);
    return { x, y, width: Math.ceil(shape.x + shape.width) - x, height: Math.ceil(shape.y + shape.height) - y };
  }
  const r = shape.kind === 'outline' ? 0 : shape.size / 2;
  let x0 = Infinity;
  let y0 = Infinity;
  let x1 = -Infinity;
  let y1 = -Infinity;
  for (const [x, y] of shape.points) {
    x0 = Math.min(x0, x - r);
    y0 = Math.min(y0, y - r);
    x1 = Math.max(x1, x + r);
    y1 = Math.max(y1, y + r);
  }
  if (x1 < x0) return { x: 0, y: 0, width: 0, height: 0 };
  const x = Math.floor(x0);
  const y = Math.floor(y0);
  return { x, y, width: Math.ceil(x1) - x + 1, height: Math.ceil(y1) - y + 1 };
}

/** Places moved by so many px. */
export const shiftPoints = (points: readonly Point[], dx: number, dy: number): Point[] =>
  points.map(([x, y]) => [x + dx, y + dy]);

/** Shapes moved by so many px. */
export function shiftShapes(shapes: readonly Shape[], dx: number, dy: number): Shape[] {
  return shapes.map((shape) => {
    if (shape.kind === 'box') return { ...shape, x: shape.x + dx, y: shape.y + dy };
    return { ...shape, points: shiftPoints(shape.points, dx, dy) };
  });
}

/** Shapes in a picture so many times as large. */
export const scaleShapes = (shapes: readonly Shape[], by: number): Shape[] =>
  shapes.map((shape) => {
    if (shape.kind === 'box')
      return { ...shape, x: shape.x * by, y: shape.y * by, width: shape.width * by, height: shape.height * by };
    const points = shape.points.map(([x, y]): Point => [x * by, y * by]);
    return shape.kind === 'outline' ? { ...shape, points } : { ...shape, points, size: shape.size * by };
  });

/** About how many px wide a shape is, however long it may be. */
export function acrossOf(shape: Shape): number {
  if (shape.kind === 'box') return Math.min(shape.width, shape.height);
  if (shape.kind !== 'outline') return shape.size;
  let area = 0;
  let round = 0;
  shape.points.forEach(([x, y], n) => {
    const [u, v] = shape.points[(n + 1) % shape.points.length];
    area += x * v - u * y;
    round += Math.hypot(u - x, v - y);
  });
  return round ? Math.abs(area) / round : 0;
}

/** Box around everything that the shapes add. */
export function boundsOfAll(shapes: readonly Shape[]): Box {
  let box: Box = { x: 0, y: 0, width: 0, height: 0 };
  for (const shape of shapes) if (shape.op === 'add') box = union(box, boundsOfShape(shape));
  return box;
}

/** Box around everything that the shapes add, cut to an area of the picture. */
export function boundsWithin(shapes: readonly Shape[], area: Box): Box {
  const box = boundsOfAll(shapes);
  return isEmpty(box) ? box : intersect(box, area);
}

/** The same in a picture that begins at 0, 0. */
export const boundsOfShapes = (shapes: readonly Shape[], width: number, height: number): Box =>
  boundsWithin(shapes, { x: 0, y: 0, width, height });

/** Box of the cover once margin and feather are added, cut to an area of the picture. */
export function coverWithin(shapes: readonly Shape[], margin: number, feather: number, area: Box): Box {
  const box = boundsWithin(shapes, area);
  return isEmpty(box) ? box : intersect(grow(box, Math.ceil(margin + feather) + 1), area);
}

/** The same in a picture that begins at 0, 0. */
export const coverBounds = (
  shapes: readonly Shape[],
  margin: number,
  feather: number,
  width: number,
  height: number,
): Box => coverWithin(shapes, margin, feather, { x: 0, y: 0, width, height });

/** Covers every pixel whose centre lies in the shapes; the mask is binary (0 or 255) and has the size of `frame`. */
export function rasterise(shapes: readonly Shape[], frame: Box): Mask {
  const mask = emptyMask(frame);
  for (const shape of shapes) {
    const value = shape.op === 'add' ? 255 : 0;
    const box = intersect(boundsOfShape(shape), frame);
    if (isEmpty(box)) continue;
    if (shape.kind === 'box') fillBox(mask, shape, box, value);
    else if (shape.kind === 'outline') fillOutline(mask, shape.points, box, value);
    else fillStroke(mask, shape.points, shape.size / 2, value);
  }
  return mask;
}

function fillBox(mask: Mask, shape: Box, box: Box, value: number) {
  for (let y = box.y; y < box.y + box.height; y++) {
    if (y + 0.5 < shape.y || y + 0.5 > shape.y + shape.height) continue;
    for (let x = box.x; x < box.x + box.width; x++) {
      if (x + 0.5 < shape.x || x + 0.5 > shape.x + shape.width) continue;
      mask.data[(y - mask.y) * mask.width + x - mask.x] = value;
    }
  }
}

/** Non-zero winding fill by scan lines through the pixel centres. Each edge is looked at on its own rows only. */
function fillOutline(mask: Mask, points: readonly Point[], box: Box, value: number): void {
  const rows: Array<Array<[number, number]>> = Array.from({ length: box.height }, () => []);
  for (let i = 0; i < points.length; i++) {
    const [ax, ay] = points[i];
    const [bx, by] = points[(i + 1) % points.length];
    const first = Math.max(box.y, Math.ceil(Math.min(ay, by) - 0.5));
    const end = Math.min(box.y + box.height, Math.ceil(Math.max(ay, by) - 0.5));
    for (let y = first; y < end; y++)
      rows[y - box.y].push([ax + ((y + 0.5 - ay) / (by - ay)) * (bx - ax), by > ay ? 1 : -1]);
  }
  for (let y = box.y; y < box.y + box.height; y++) {
    const crossings = rows[y - box.y];
    crossings.sort((a, b) => a[0] - b[0]);
    let winding = 0;
    for (let i = 0; i + 1 < crossings.length; i++) {
      winding += crossings[i][1];
      if (winding === 0) continue;
      const x0 = Math.max(box.x, Math.ceil(crossings[i][0] - 0.5));
      const x1 = Math.min(box.x + box.width - 1, Math.ceil(crossings[i + 1][0] - 0.5) - 1);
      for (let x = x0; x <= x1; x++) mask.data[(y - mask.y) * mask.width + x - mask.x] = value;
    }
  }
}

function fillStroke(mask: Mask, points: readonly Point[], radius: number, value: number): void {
  const r2 = radius * radius;
  for (let i = 0; i < Math.max(1, points.length - 1); i++) {
    const [ax, ay] = points[i];
    const [bx, by] = points[Math.min(i + 1, points.length - 1)];
    const dx = bx - ax;
    const dy = by - ay;
    const length2 = dx * dx + dy * dy;
    const y0 = Math.max(mask.y, Math.floor(Math.min(ay, by) - radius));
    const y1 = Math.min(mask.y + mask.height - 1, Math.ceil(Math.max(ay, by) + radius));
    for (let y = y0; y <= y1; y++) {
      const cy = y + 0.5;
      // Only the stretch of the segment within reach of this row decides how far left and right to look.
      let t0 = 0;
      let t1 = 1;
      if (Math.abs(dy) > 1e-9) {
        const ta = (cy - radius - ay) / dy;
        const tb = (cy + radius - ay) / dy;
        t0 = Math.max(0, Math.min(ta, tb));
        t1 = Math.min(1, Math.max(ta, tb));
        if (t0 > t1) continue;
      }
      const xa = ax + t0 * dx;
      const xb = ax + t1 * dx;
      const x0 = Math.max(mask.x, Math.floor(Math.min(xa, xb) - radius));
      const x1 = Math.min(mask.x + mask.width - 1, Math.ceil(Math.max(xa, xb) + radius));
      for (let x = x0; x <= x1; x++) {
        const px = x + 0.5 - ax;
        const py = cy - ay;
        const t = length2 > 0 ? Math.min(1, Math.max(0, (px * dx + py * dy) / length2)) : 0;
        const ex = px - t * dx;
        const ey = py - t * dy;
        if (ex * ex + ey * ey <= r2) mask.data[(y - mask.y) * mask.width + x - mask.x] = value;
      }
    }
  }
}
