/** px around a place in which nothing stands out more, and levels by which it does at least. */
const ALONE = 4;
const STANDS = 2;
/** Samples across a description, and px between them. */
const ACROSS = 11;
const EVERY = 1.5;
/** Numbers of a description that are compared first. */
const FIRST = 33;
/** Correlation from which on descriptions are alike. */
const ALIKE = 0.88;

/** What is around a place, of unit length around 0. */
interface Described {
  values: Float32Array;
  /** length of what comes after the first numbers, squared */
  rest: number;
}

export interface Spot {
  x: number;
  y: number;
  /** by how many levels it stands out */
  stands: number;
  /** as it is, and mirrored across */
  description: Described;
  mirrored?: Described;
}

/** Brightness softened, and what stands out: between two softenings. */
interface Planes {
  width: number;
  height: number;
  soft: Float32Array;
  between: Float32Array;
}

/** Places that stand out from what is around them. */
export function spotsIn({ width, height, between, soft }: Planes, holds: (i: number) => boolean, most: number): Spot[] {
  const reach = Math.ceil((EVERY * (ACROSS - 1)) / 2) + 1;
  const found: Array<{ x: number; y: number; stands: number }> = [];
  for (let y = reach; y < height - reach; y++)
    for (let x = reach; x < width - reach; x++) {
      const i = y * width + x;
      const stands = Math.abs(between[i]);
      if (stands < STANDS || !holds(i)) continue;
      let alone = true;
      for (let v = -ALONE; v <= ALONE && alone; v++)
        for (let u = -ALONE; u <= ALONE && alone; u++) alone = Math.abs(between[i + v * width + u]) <= stands;
      if (alone) found.push({ x, y, stands });
    }
  found.sort((a, b) => b.stands - a.stands);
  return found
    .filter(({ x, y }) => isCorner(soft, width, x, y))
    .slice(0, most)
    .map((spot) => ({ ...spot, description: describe(soft, width, spot.x, spot.y, 1) }));
}

/** px around a place that tell whether it is more than a line, and how much less it may vary one way than the other. */
const CORNER = 7;
const LINE = 0.03;

/** Whether a place varies in both directions: a line looks the same all along it. Source: Harris & Stephens 1988, from memory. */
function isCorner(soft: Float32Array, width: number, x: number, y: number): boolean {
  let [xx, yy, xy] = [0, 0, 0];
  for (let v = -CORNER; v <= CORNER; v++)
    for (let u = -CORNER; u <= CORNER; u++) {
      const i = (y + v) * width + x + u;
      const dx = soft[i + 1] - soft[i - 1];
      const dy = soft[i + width] - soft[i - width];
      xx += dx * dx;
      yy += dy * dy;
      xy += dx * dy;
    }
  const half = (xx + yy) / 2;
  const apart = Math.sqrt(((xx - yy) / 2) ** 2 + xy * xy);
  return half - apart > LINE * (half + apart);
}

/** What is around a place, evened to a mean of 0 and a length of 1. */
export function describe(soft: Float32Array, width: number, x: number, y: number, mirror: 1 | -1): Described {
  const out = new Float32Array(ACROSS * ACROSS);
  const half = (ACROSS - 1) / 2;
  let mean = 0;
  for (let v = 0, k = 0; v < ACROSS; v++)
    for (let u = 0; u < ACROSS; u++, k++) {
      const [px, py] = [x + mirror * EVERY * (u - half), y + EVERY * (v - half)];
      const i = Math.floor(py) * width + Math.floor(px);
      const [fx, fy] = [px - Math.floor(px), py - Math.floor(py)];
      const upper = soft[i] + (soft[i + 1] - soft[i]) * fx;
      const lower = soft[i + width] + (soft[i + width + 1] - soft[i + width]) * fx;
      out[k] = upper + (lower - upper) * fy;
      mean += out[k] / out.length;
    }
  let length = 0;
  for (let k = 0; k < out.length; k++) {
    out[k] -= mean;
    length += out[k] * out[k];
  }
  const scale = 1 / (Math.sqrt(length) || 1);
  let rest = 0;
  for (let k = 0; k < out.length; k++) {
    out[k] *= scale;
    if (k >= FIRST) rest += out[k] * out[k];
  }
  return { values: out, rest };
}

/** Whether descriptions correlate enough. What the numbers that come last can still add is bounded (Cauchy–Schwarz). */
export function areAlike({ values: a, rest: one }: Described, { values: b, rest: other }: Described): boolean {
  let sum = 0;
  for (let k = 0; k < FIRST; k++) sum += a[k] * b[k];
  if (sum + Math.sqrt(one * other) < ALIKE) return false;
  for (let k = FIRST; k < a.length; k++) sum += a[k] * b[k];
  return sum >= ALIKE;
}
