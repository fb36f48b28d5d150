import type { Point } from '../../core/mask/shapes.ts';
import type { StripSpec } from '../../core/repair/spec.ts';
import { drawnOf, HANDLES, pointsOf, stripCorners } from './useStrip.ts';

const line = { from: [40, 300] as Point, to: [400, 310] as Point, left: 30, right: 20 };
const spec = (set: Partial<StripSpec> = {}): StripSpec => ({
  method: 'strip',
  corners: stripCorners(line),
  profile: pointsOf('two steps'),
  relief: 0.8,
  stops: 0.2,
  shadow: 0.5,
  guard: [],
  ...set,
});

test('a strip stands upright on its lower edge, whichever way that was drawn', () => {
  const corners = stripCorners(line);
  expect(corners).toEqual([
    [40, 270],
    [400, 290],
    [400, 310],
    [40, 300],
  ]);
  expect(stripCorners({ ...line, from: line.to, to: line.from })).toEqual(corners);
});

test('one that lies is taken up as it was drawn', () => {
  expect(drawnOf(spec())).toMatchObject({ ...line, profile: 'two steps', relief: 0.8, stops: 0.2, shadow: 0.5 });
});

test('a profile that is none of those given was drawn by hand, its places are those between which it runs', () => {
  const own = Array.from({ length: HANDLES }, (_, k): Point => [k / (HANDLES - 1), 0.01 * k * k]);
  const drawn = drawnOf(spec({ profile: own }));
  expect(drawn.profile).toBe('own');
  drawn.own.forEach(([t, d], k) => {
    expect(t).toBeCloseTo(own[k][0], 9);
    expect(d).toBeCloseTo(own[k][1], 9);
  });
  // Of a given one the places that can be moved lie on it.
  expect(drawnOf(spec()).own[0]).toEqual([0, 0]);
  expect(drawnOf(spec()).own[HANDLES - 1]).toEqual([1, 0.16]);
});
