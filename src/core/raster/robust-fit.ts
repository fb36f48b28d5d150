import { median } from './luma.ts';
import { solveRows } from './solve.ts';

/**
 * Polynomial through most of the points: least squares, again and again with less weight for what lies far off.
 * @param order 1 a line, 2 a parabola
 * @returns its value at a step
 * Source: iteratively reweighted least squares with Tukey's biweight (common practice).
 */
export function robustFit(at: number[], value: number[], order: 1 | 2): (s: number) => number {
  if (at.length < 4) {
    const mean = value.reduce((p, q) => p + q, 0) / Math.max(1, value.length);
    return () => mean;
  }
  const centre = at.reduce((p, q) => p + q, 0) / at.length;
  const scale = Math.max(1, ...at.map((s) => Math.abs(s - centre)));
  const terms = order + 1;
  let weights = at.map(() => 1);
  let c = new Array<number>(terms).fill(0);
  const evaluate = (s: number) => {
    const t = (s - centre) / scale;
    return c[0] + c[1] * t + (order === 2 ? c[2] * t * t : 0);
  };
  for (let round = 0; round < 8; round++) {
    const m = Array.from({ length: terms }, (_, i) =>
      Float64Array.from({ length: terms + 1 }, (__, j) => (i === j ? 1e-6 : 0)),
    );
    at.forEach((s, n) => {
      const t = (s - centre) / scale;
      const powers = [1, t, t * t];
      for (let i = 0; i < terms; i++) {
        for (let j = 0; j < terms; j++) m[i][j] += weights[n] * powers[i] * powers[j];
        m[i][terms] += weights[n] * powers[i] * value[n];
      }
    });
    c = solveRows(m)!;
    const off = at.map((s, n) => Math.abs(value[n] - evaluate(s)));
    const usual = Math.max(0.7, 1.48 * median(off));
    weights = off.map((d) => (d < 4.7 * usual ? (1 - (d / (4.7 * usual)) ** 2) ** 2 : 0));
  }
  return evaluate;
}
