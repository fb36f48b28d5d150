import type { Point } from '../../mask/shapes.ts';
import { smoothLine } from './smooth-line.ts';

/** Solves A x = b by elimination with pivots, for comparison. */
function solve(a: number[][], b: number[]): number[] {
  const n = b.length;
  const rows = a.map((row, i) => [...row, b[i]]);
  for (let c = 0; c < n; c++) {
    const pivot = rows
      .slice(c)
      .reduce((best, row, i) => (Math.abs(row[c]) > Math.abs(rows[best][c]) ? c + i : best), c);
    [rows[c], rows[pivot]] = [rows[pivot], rows[c]];
    for (let r = 0; r < n; r++) {
      if (r === c) continue;
      const by = rows[r][c] / rows[c][c];
      for (let k = c; k <= n; k++) rows[r][k] -= by * rows[c][k];
    }
  }
  return rows.map((row, i) => row[n] / row[i]);
}

const along = (n: number, f: (i: number) => number): Point[] => Array.from({ length: n }, (_, i): Point => [i, f(i)]);
/** Numbers between 0 and 1 that look random but are always the same. */
const scatter = (i: number) => Math.abs(Math.sin(12.9898 * i + 4.1) * 43758.5453) % 1;

describe('smoothLine', () => {
  test('is the least of weighted squares and second differences, as solved in full', () => {
    const n = 14;
    const stiffness = 7;
    const points = along(n, (i) => 20 * scatter(i));
    const weights = points.map((_, i) => 0.05 + scatter(i + 50));
    const a = points.map((_, i) => points.map((_, j) => (i === j ? weights[i] : 0)));
    for (let m = 1; m < n - 1; m++) {
      const second = new Map([
        [m - 1, 1],
        [m, -2],
        [m + 1, 1],
      ]);
      for (const [i, u] of second) for (const [j, v] of second) a[i][j] += stiffness * u * v;
    }
    const wanted = solve(
      a,
      points.map((p, i) => weights[i] * p[1]),
    );
    smoothLine(points, weights, stiffness).forEach(([, y], i) => expect(y).toBeCloseTo(wanted[i], 3));
  });

  test('a straight line stays, however stiff; without stiffness everything stays', () => {
    const straight = along(60, (i) => 3 - 0.4 * i);
    const ones = straight.map(() => 1);
    for (const stiffness of [1, 1e3, 1e6])
      smoothLine(straight, ones, stiffness).forEach((p, i) => expect(p[1]).toBeCloseTo(straight[i][1], 4));
    const wild = along(30, (i) => 9 * scatter(i));
    smoothLine(wild, ones, 0).forEach((p, i) => expect(p[1]).toBeCloseTo(wild[i][1], 4));
  });

  test('scatter goes and a long bend stays', () => {
    const bend = (i: number) => 40 * Math.sin(i / 40);
    const found = smoothLine(
      along(240, (i) => bend(i) + 2 * (scatter(i) - 0.5)),
      new Array<number>(240).fill(1),
      40,
    );
    const rms = Math.sqrt(found.reduce((s, [x, y]) => s + (y - bend(x)) ** 2, 0) / 240);
    expect(rms).toBeLessThan(0.3);
  });

  test('where points do not count it runs on from both sides of them', () => {
    const bow = (i: number) => 0.01 * (i - 50) ** 2;
    const lost = (i: number) => i > 40 && i < 60;
    const points = along(101, (i) => (lost(i) ? 25 : bow(i)));
    const found = smoothLine(
      points,
      points.map((_, i) => (lost(i) ? 0 : 1)),
      40,
    );
    found.forEach(([x, y]) => expect(Math.abs(y - bow(x))).toBeLessThan(0.15));
  });

  test('too short to bend, it is what it was', () => {
    expect(
      smoothLine(
        along(2, (i) => i),
        [1, 1],
        50,
      ),
    ).toEqual(along(2, (i) => i));
    expect(smoothLine([], [], 50)).toEqual([]);
  });
});
