import type { Point } from '../../mask/shapes.ts';
import { runOn } from './run-on.ts';
import type { TracedStrand } from './traced-strand.ts';

const SIZE = { width: 400, height: 200 };

/** A dark wire 5 px across at y = 100, from `from` to `to`, with a broad post before its end. */
const scene = (from: number, to: number) => (x: number, y: number) => {
  if (x >= to && x < to + 40) return 60;
  return x >= from && x < to && Math.abs(y - 100) < 2.5 ? 40 : 170;
};

const traced = (from: number, to: number): TracedStrand => {
  const points = Array.from({ length: Math.floor((to - from) / 2) + 1 }, (_, n): Point => [from + 2 * n, 100]);
  return {
    points,
    widths: points.map(() => 5),
    blurs: points.map(() => 0.7),
    unsure: points.map(() => 0.1),
    width: 5,
    blur: 0.8,
    contrast: -130,
    length: to - from,
    certainty: 1,
  };
};

test('an end that was set short of a post runs on to it, and no farther', () => {
  const { points, widths, unsure, length } = runOn(scene(50, 300), traced(100, 292), SIZE);
  expect(Math.abs(points[points.length - 1][0] - 300)).toBeLessThanOrEqual(2);
  // Where it goes on and on somebody has set it to end there.
  expect(points[0]).toEqual([100, 100]);
  expect(widths).toHaveLength(points.length);
  expect(unsure).toHaveLength(points.length);
  expect(length).toBeCloseTo(points[points.length - 1][0] - 100);
});

test('an end near the border goes to the very border', () => {
  const { points } = runOn(scene(-10, 500), traced(7, 391), SIZE);
  expect(points[0][0]).toBeCloseTo(0);
  expect(points[points.length - 1][0]).toBeCloseTo(400);
});

test('an end where the strand ends stays', () => {
  const whole = traced(100, 300);
  expect(runOn(scene(100, 301), whole, SIZE).points.length).toBe(whole.points.length);
});
