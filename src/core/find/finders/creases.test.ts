import type { Point } from '../../mask/shapes.ts';
import { toBorder } from './creases.ts';

const SIZE = { width: 1000, height: 700 };

test('a fold that comes near the paper’s edges on both sides runs on to them in its direction', () => {
  const line = Array.from({ length: 91 }, (_, n): Point => [50 + 10 * n, 300 + n]);
  const whole = toBorder(line, SIZE);
  expect(whole).toHaveLength(93);
  expect(whole[0][0]).toBeCloseTo(0);
  expect(whole[0][1]).toBeCloseTo(295);
  expect(whole[92][0]).toBeCloseTo(1000);
  expect(whole[92][1]).toBeCloseTo(395);
  expect(whole.slice(1, 92)).toEqual(line);
});

test('an end in the middle of the picture stays, and so does one that runs along the border', () => {
  const within = Array.from({ length: 60 }, (_, n): Point => [200 + 10 * n, 300]);
  expect(toBorder(within, SIZE)).toEqual(within);
  const along = Array.from({ length: 60 }, (_, n): Point => [200 + 10 * n, 20]);
  expect(toBorder(along, SIZE)).toEqual(along);
});
