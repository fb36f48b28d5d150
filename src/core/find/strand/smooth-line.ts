import type { Point } from '../../mask/shapes.ts';

/**
 * The line closest to points of unequal weight that bends little: the weighted sum of squared distances plus `stiffness`
 * times that of second differences is least. Where weights are small it runs on smoothly from where they are not.
 *
 * @param points places in even steps along a line, px
 * @param weights one a point, 0 to 1
 * @param stiffness how much bending counts; with weights of 1, waves shorter than about 2π times its fourth root of steps go
 * @returns as many points
 * Source: Whittaker, "On a New Method of Graduation", 1923; Eilers, "A Perfect Smoother", 2003. The pentadiagonal system
 * is solved by its LDLᵀ factors.
 */
export function smoothLine(points: readonly Point[], weights: ArrayLike<number>, stiffness: number): Point[] {
  const n = points.length;
  if (n < 3) return [...points];
  const pivot = new Float64Array(n);
  const next = new Float64Array(n);
  const second = new Float64Array(n);
  const inner = (i: number) => (i > 0 && i < n - 1 ? 1 : 0);
  // Never quite 0, or a line without weights would be anywhere.
  const weight = (i: number) => weights[i] + 1e-6;
  for (let i = 0; i < n; i++) {
    let value = weight(i) + stiffness * ((i > 1 ? 1 : 0) + 4 * inner(i) + (i < n - 2 ? 1 : 0));
    if (i > 0) value -= next[i - 1] ** 2 * pivot[i - 1];
    if (i > 1) value -= second[i - 2] ** 2 * pivot[i - 2];
    pivot[i] = value;
    if (i + 1 < n) {
      const beside = -2 * stiffness * (inner(i) + inner(i + 1));
      next[i] = (beside - (i > 0 ? second[i - 1] * next[i - 1] * pivot[i - 1] : 0)) / value;
    }
    if (i + 2 < n) second[i] = stiffness / value;
  }
  const solve = (axis: 0 | 1): Float64Array => {
    const x = Float64Array.from(points, (p, i) => weight(i) * p[axis]);
    for (let i = 1; i < n; i++) x[i] -= next[i - 1] * x[i - 1] + (i > 1 ? second[i - 2] * x[i - 2] : 0);
    for (let i = n - 1; i >= 0; i--) {
      x[i] /= pivot[i];
      if (i + 1 < n) x[i] -= next[i] * x[i + 1];
      if (i + 2 < n) x[i] -= second[i] * x[i + 2];
    }
    return x;
  };
  const [x, y] = [solve(0), solve(1)];
  return points.map((_, i) => [x[i], y[i]]);
}
