import type { Point } from '../../core/mask/shapes.ts';
import { cornersOf, drawnCorners } from './two-places.ts';

const around = (...places: Point[]) => {
  const [xs, ys] = [places.map((p) => p[0]), places.map((p) => p[1])];
  return cornersOf([Math.min(...xs), Math.min(...ys)], [Math.max(...xs), Math.max(...ys)]);
};

test('a box drawn from corner to corner is that box, in any direction', () => {
  for (const [from, to] of [
    [
      [10, 20],
      [110, 80],
    ],
    [
      [110, 80],
      [10, 20],
    ],
    [
      [10, 80],
      [110, 20],
    ],
  ] as Array<[Point, Point]>)
    expect(cornersOf(...drawnCorners(from, to, around(from, to)))).toEqual({ x: 10, y: 20, width: 100, height: 60 });
});

test('one drawn around something, back to where it began, is the box around all of that', () => {
  const path: Point[] = [
    [50, 10],
    [100, 60],
    [55, 120],
    [5, 60],
    [48, 14],
  ];
  const over = around(...path);
  expect(cornersOf(...drawnCorners(path[0], path[4], over))).toEqual({ x: 5, y: 10, width: 95, height: 110 });
  // A hand that drew a box and went back a little means the smaller one.
  const [from, to]: Point[] = [
    [0, 0],
    [80, 70],
  ];
  expect(drawnCorners(from, to, around(from, [100, 90]))).toEqual([from, to]);
});
