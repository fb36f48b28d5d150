import type { Point } from '../../../mask/shapes.ts';
import { solveRows } from '../../../raster/solve.ts';

/** Where a line runs beyond the edge of a picture. */
export interface Course {
  /** place along the edge `n` px inside it, negative outside, and px along per px there */
  at(n: number): number;
  slope(n: number): number;
  /** px by which the line strays from it, root mean square */
  strays: number;
}

/** How many times its deviation a bow must be, and px, to be believed. */
const BOWED = 4;
const LEAST_BOW = 0.5;

/** Least squares of `along` over powers of `inside` up to `degree`: coefficients, and root mean square of what is left. */
function fitted(points: readonly Point[], degree: 1 | 2): { c: number[]; strays: number } {
  const size = degree + 1;
  const m = Array.from({ length: size }, () => new Float64Array(size + 1));
  for (const [n, s] of points) {
    const powers = [1, n, n * n];
    for (let i = 0; i < size; i++) {
      for (let j = 0; j < size; j++) m[i][j] += powers[i] * powers[j];
      m[i][size] += powers[i] * s;
    }
  }
  const c = solveRows(m)!;
  let sum = 0;
  for (const [n, s] of points) sum += (s - c[0] - c[1] * n - (c[2] ?? 0) * n * n) ** 2;
  return { c, strays: Math.sqrt(sum / points.length) };
}

/**
 * The course on which a line leaves a picture: a parabola where it is seen to bow, as what hangs does, else straight. It goes on
 * bowing for as far as it was seen, and straight from there.
 * @param points px inside the edge and along it, from the edge on
 * Source: a hanging wire is close to a parabola (common practice).
 */
export function courseOf(points: readonly Point[]): Course {
  const far = Math.max(...points.map(([n]) => n));
  const straight = fitted(points, 1);
  const bowed = fitted(points, 2);
  const bow = (Math.abs(bowed.c[2]) * far * far) / 4;
  const isBowed = bow > LEAST_BOW && bow > BOWED * bowed.strays;
  const { c, strays } = isBowed ? bowed : straight;
  const [a, b, q = 0] = c;
  const held = (n: number) => Math.max(-far, n);
  const slope = (n: number) => b + 2 * q * held(n);
  return {
    at: (n) => a + b * held(n) + q * held(n) ** 2 + slope(n) * (n - held(n)),
    slope,
    strays,
  };
}
