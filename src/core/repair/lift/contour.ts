import { outlineOf } from '../../mask/outline.ts';
import { componentBoxes } from '../../mask/components.ts';
import { boundsOf } from '../../mask/mask.ts';
import { cropPlane, growWithin, intersect, isEmpty, type Box } from '../../raster/raster.ts';

/** A closed line around an area, sampled evenly, with the direction that leads out of the area at each sample. */
export interface Contour {
  /** samples */
  count: number;
  /** px, pixel centres at .5 */
  x: Float64Array;
  y: Float64Array;
  /** −1 around a hole, 1 around what is not */
  sign: 1 | -1;
  /** unit vectors that lead out of the area */
  nx: Float64Array;
  ny: Float64Array;
}

/** px from sample to sample. */
export const STEP = 2;
/** px along the line over which steps of pixels and a hand that trembles are evened out. */
const EVENED = 5;
/** px around below which a line has too few samples to measure anything. */
const SHORTEST = 40;

/** Closed polyline → samples every {@link STEP} px, evened out; null when it is too short. */
function sampled(points: ReadonlyArray<readonly [number, number]>): Array<[number, number]> | null {
  const out: Array<[number, number]> = [];
  let over = 0;
  for (let n = 0; n < points.length; n++) {
    const [ax, ay] = points[n];
    const [bx, by] = points[(n + 1) % points.length];
    const span = Math.hypot(bx - ax, by - ay);
    for (let t = over; t < span; t += STEP) out.push([ax + ((bx - ax) * t) / span, ay + ((by - ay) * t) / span]);
    over = (((over - span) % STEP) + STEP) % STEP;
  }
  return out.length * STEP < SHORTEST ? null : out;
}

/** Mean along a closed line, weighted as a Gaussian of `sigma` samples. */
export function evened(values: Float64Array, sigma: number): Float64Array {
  const n = values.length;
  const reach = Math.min(n >> 1, Math.ceil(3 * sigma));
  const weights = Float64Array.from({ length: 2 * reach + 1 }, (_, k) =>
    Math.exp(-((k - reach) ** 2) / (2 * sigma ** 2)),
  );
  const total = weights.reduce((a, b) => a + b, 0);
  return Float64Array.from({ length: n }, (_, i) => {
    let sum = 0;
    for (let k = -reach; k <= reach; k++) sum += weights[k + reach] * values[(i + k + n) % n];
    return sum / total;
  });
}

/** A contour through samples; `sign` −1 where the area lies at the other side, around a hole. */
export function contourThrough(px: Float64Array, py: Float64Array, sign: 1 | -1): Contour {
  const count = px.length;
  const x = evened(px, EVENED / STEP);
  const y = evened(py, EVENED / STEP);
  const nx = new Float64Array(count);
  const ny = new Float64Array(count);
  let area = 0;
  for (let i = 0; i < count; i++) {
    const j = (i + 1) % count;
    area += x[i] * y[j] - x[j] * y[i];
  }
  const turn = sign * (area > 0 ? 1 : -1);
  for (let i = 0; i < count; i++) {
    const [p, q] = [(i + count - 2) % count, (i + 2) % count];
    const [dx, dy] = [x[q] - x[p], y[q] - y[p]];
    const span = Math.hypot(dx, dy) || 1;
    nx[i] = (turn * dy) / span;
    ny[i] = (-turn * dx) / span;
  }
  return { count, x, y, nx, ny, sign };
}

/** An open line through points, as a contour whose normals lead to one side of it. */
export function lineThrough(points: ReadonlyArray<readonly [number, number]>): Contour {
  const along: Array<readonly [number, number]> = [];
  let over = 0;
  for (let n = 1; n < points.length; n++) {
    const [[ax, ay], [bx, by]] = [points[n - 1], points[n]];
    const span = Math.hypot(bx - ax, by - ay);
    for (; over < span; over += STEP) along.push([ax + ((bx - ax) * over) / span, ay + ((by - ay) * over) / span]);
    over -= span;
  }
  const count = along.length;
  // Evened as its ends go on straight.
  const even = (of: 0 | 1) => {
    const reach = 3;
    const at = (i: number) =>
      i < 0
        ? 2 * along[0][of] - along[Math.min(count - 1, -i)][of]
        : i >= count
          ? 2 * along[count - 1][of] - along[Math.max(0, 2 * count - 2 - i)][of]
          : along[i][of];
    return Float64Array.from({ length: count }, (_, i) => {
      let sum = 0;
      for (let k = -reach; k <= reach; k++) sum += at(i + k) * (reach + 1 - Math.abs(k));
      return sum / (reach + 1) ** 2;
    });
  };
  const [x, y] = [even(0), even(1)];
  const nx = new Float64Array(count);
  const ny = new Float64Array(count);
  for (let i = 0; i < count; i++) {
    const [p, q] = [Math.max(0, i - 3), Math.min(count - 1, i + 3)];
    const [dx, dy] = [x[q] - x[p], y[q] - y[p]];
    const span = Math.hypot(dx, dy) || 1;
    nx[i] = -dy / span;
    ny[i] = dx / span;
  }
  return { count, x, y, nx, ny, sign: 1 };
}

/** The lines around an area, and around its holes, longest first. */
export function contoursOf(whole: Uint8Array, wide: number, high: number): Contour[] {
  const out: Contour[] = [];
  const bounds = growWithin(boundsOf({ x: 0, y: 0, width: wide, height: high, data: whole }), 1, wide, high);
  const { width, height } = bounds;
  const mask = cropPlane(whole, wide, bounds);
  const around = (plane: Uint8Array, box: Box, boxes: readonly Box[], sign: 1 | -1) => {
    const own = cropPlane(plane, width, box);
    const alone = boxes.every((other) => other === box || isEmpty(intersect(other, box)));
    const points = sampled(
      outlineOf(alone ? own : onlyFirst(own, box), box.width, box.height, box.x + bounds.x, box.y + bounds.y),
    );
    if (!points) return;
    out.push(
      contourThrough(
        Float64Array.from(points, (p) => p[0]),
        Float64Array.from(points, (p) => p[1]),
        sign,
      ),
    );
  };
  const areas = componentBoxes(mask, width, height);
  for (const box of areas) around(mask, box, areas, 1);
  const outside = new Uint8Array(mask.length);
  for (let i = 0; i < mask.length; i++) outside[i] = mask[i] ? 0 : 1;
  const others = componentBoxes(outside, width, height);
  for (const box of others) {
    const touches = box.x === 0 || box.y === 0 || box.x + box.width === width || box.y + box.height === height;
    if (!touches) around(outside, box, others, -1);
  }
  return out.sort((a, b) => b.count - a.count);
}

/** Leaves of a plane the group alone that reaches the first row: others may lie within its box. */
function onlyFirst(plane: Uint8Array, { width }: Box): Uint8Array {
  const out = new Uint8Array(plane.length);
  let start = 0;
  while (start < width && !plane[start]) start++;
  if (start === width) return plane;
  const stack = [start];
  out[start] = 1;
  while (stack.length) {
    const i = stack.pop()!;
    const x = i % width;
    const [left, right] = [x > 0 ? -1 : 0, x < width - 1 ? 1 : 0];
    const last = i + width < plane.length ? i + width : i;
    for (let row = i >= width ? i - width : i; row <= last; row += width)
      for (let j = row + left; j <= row + right; j++) {
        if (!plane[j] || out[j]) continue;
        out[j] = 1;
        stack.push(j);
      }
  }
  return out;
}
