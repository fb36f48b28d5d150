import type { Plane } from '../raster/luma.ts';
import { CERTAIN, leanOf, leanOfLine } from './level.ts';

let seed = 7;
const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;

/** A plane of some tone at each place, with grain. */
function drawn(width: number, height: number, tone: (x: number, y: number) => number): Plane {
  const data = new Float32Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      data[y * width + x] = tone(x - width / 2 + 0.5, y - height / 2 + 0.5) + 6 * (random() - 0.5);
  return { width, height, data };
}
const soft = (d: number) => 1 / (1 + Math.exp(-d));

test.each([-7.4, -2.25, 0, 0.6, 5.1])('a horizon that leans by %d degrees is found', (degrees) => {
  const slope = Math.tan((degrees * Math.PI) / 180);
  const found = leanOf(drawn(600, 400, (x, y) => 190 - 80 * soft(y - 20 - x * slope)))!;
  expect(Math.abs(found.degrees - degrees)).toBeLessThan(0.1);
  expect(found.certainty).toBeGreaterThan(CERTAIN);
  expect(found.from).toBe('level lines');
});

test('posts that lean clockwise lean by a positive angle, as a horizon does', () => {
  const slope = Math.tan((4 * Math.PI) / 180);
  // Its upper end leans to the right.
  const found = leanOf(drawn(500, 500, (x, y) => 120 + 50 * Math.tanh(5 * Math.sin((x + y * slope) / 9))))!;
  expect(Math.abs(found.degrees - 4)).toBeLessThan(0.1);
  expect(found.from).toBe('upright lines');
});

test('where nothing is level it is not certain', () => {
  const found = leanOf(drawn(400, 400, (x, y) => 128 + 60 * Math.sin(Math.hypot(x, y) / 6)));
  expect(found === null || found.certainty < CERTAIN).toBe(true);
  const grain = leanOf(drawn(400, 400, () => 128));
  expect(grain === null || grain.certainty < CERTAIN).toBe(true);
  expect(leanOf(drawn(20, 400, () => 128))).toBeNull();
});

test('a line that is drawn along what should be level or upright', () => {
  expect(leanOfLine([0, 0], [100, 10])).toBeCloseTo(5.71, 2);
  expect(leanOfLine([100, 10], [0, 0])).toBeCloseTo(5.71, 2);
  expect(leanOfLine([50, 0], [40, 100])).toBeCloseTo(5.71, 2);
  expect(leanOfLine([40, 100], [50, 0])).toBeCloseTo(5.71, 2);
  expect(leanOfLine([0, 0], [0, 80])).toBeCloseTo(0, 10);
  expect(() => leanOfLine([3, 3], [3, 3])).toThrow(RangeError);
});
