import type { Point } from '../../mask/shapes.ts';
import { followOn } from './follow-on.ts';

const WIDTH = 300;
const HEIGHT = 200;
/** A plane of 90 levels with a dark line 3 px wide through places. */
function drawn(places: readonly Point[], level = 20) {
  const data = new Float32Array(WIDTH * HEIGHT).fill(90);
  for (const [x, y] of places)
    for (let v = -1; v <= 1; v++)
      for (let u = -1; u <= 1; u++) data[Math.round(y + v) * WIDTH + Math.round(x + u)] = level;
  return { width: WIDTH, height: HEIGHT, data };
}
const straight = (from: Point, to: Point): Point[] =>
  Array.from({ length: 201 }, (_, i) => [
    from[0] + ((to[0] - from[0]) * i) / 200,
    from[1] + ((to[1] - from[1]) * i) / 200,
  ]);
/** The part of a line that was found, a px apart. */
const found: Point[] = Array.from({ length: 60 }, (_, i) => [40.5 + i, 100.5]);
/** px between a place and the nearest of a line. */
const off = ([x, y]: Point, line: readonly Point[]) =>
  Math.min(...line.map((p) => Math.hypot(p[0] + 0.5 - x, p[1] + 0.5 - y)));

test('a hair is followed around the bend at its end', () => {
  const bend = Array.from({ length: 60 }, (_, i): Point => {
    const angle = -Math.PI / 2 + (i / 59) * Math.PI;
    return [120 + 12 * Math.cos(angle), 112 + 12 * Math.sin(angle)];
  });
  const line = [...straight([40, 100], [120, 100]), ...bend, ...straight([120, 124], [90, 124])];
  const whole = followOn(drawn(line), found, 3);
  const [x, y] = whole[whole.length - 1];
  expect(Math.hypot(x - 90, y - 124)).toBeLessThan(4);
  for (const p of whole) expect(off(p, line)).toBeLessThan(2);
  // Its other end is one.
  expect(whole[0][0]).toBeGreaterThan(36);
});

test('a scratch goes on after a gap, one that is missing longer does not', () => {
  const near = followOn(drawn([...straight([40, 100], [102, 100]), ...straight([112, 100], [150, 100])]), found, 3);
  expect(near[near.length - 1][0]).toBeGreaterThan(146);
  const far = followOn(drawn([...straight([40, 100], [102, 100]), ...straight([130, 100], [170, 100])]), found, 3);
  expect(far[far.length - 1][0]).toBeLessThan(106);
});

test('what goes on much weaker or on and on is another line', () => {
  const weak = drawn(straight([100, 100], [160, 100]), 60);
  const strong = drawn(straight([40, 100], [100, 100]));
  const both = { ...weak, data: weak.data.map((v, i) => Math.min(v, strong.data[i])) };
  expect(followOn(both, found, 3).at(-1)![0]).toBeLessThan(105);
  expect(followOn(drawn(straight([40, 100], [290, 100])), found, 3).at(-1)).toEqual(found.at(-1));
  // One that hardly stands out is not followed at all.
  expect(followOn(drawn(straight([40, 100], [150, 100]), 78), found, 3)).toHaveLength(found.length);
});
