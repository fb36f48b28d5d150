import { randomiser } from '../../../bench/planted.ts';
import { rasterise, type Point } from './shapes.ts';

const [W, H] = [57, 43];

/**
 * Winding number of a polygon around a point, edge by edge.
 * Source: Sunday, "Inclusion of a point in a polygon", 2001 (from memory).
 */
function winding(points: Point[], x: number, y: number): number {
  let n = 0;
  points.forEach(([ax, ay], i) => {
    const [bx, by] = points[(i + 1) % points.length];
    const side = (bx - ax) * (y - ay) - (x - ax) * (by - ay);
    if (ay <= y && by > y && side > 0) n++;
    if (ay > y && by <= y && side < 0) n--;
  });
  return n;
}

describe('outlines are filled where their winding number is not 0', () => {
  test.each([1, 2, 3, 4, 5, 6, 7, 8])('any polygon, crossing itself too, partly outside, %i', (seed) => {
    const random = randomiser(seed);
    const points = Array.from({ length: 3 + Math.floor(12 * random()) }, (): Point => [
      random() * (W + 40) - 20,
      random() * (H + 40) - 20,
    ]);
    const { data } = rasterise([{ op: 'add', kind: 'outline', points }], { x: 0, y: 0, width: W, height: H });
    let covered = 0;
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++) {
        const inside = winding(points, x + 0.5, y + 0.5) !== 0;
        if (inside) covered++;
        expect(data[y * W + x] > 0).toBe(inside);
      }
    expect(covered).toBeGreaterThan(0);
  });

  test('corners on pixel centres count once, so that two halves make a whole', () => {
    const frame = { x: 0, y: 0, width: W, height: H };
    const area = (points: Point[]) => rasterise([{ op: 'add', kind: 'outline', points }], frame).data;
    const [a, b] = [
      [
        [10.5, 5.5],
        [30.5, 5.5],
        [30.5, 25.5],
      ],
      [
        [10.5, 5.5],
        [30.5, 25.5],
        [10.5, 25.5],
      ],
    ].map((p) => area(p as Point[]));
    const both = a.map((v, i) => (v ? 1 : 0) + (b[i] ? 1 : 0));
    expect(Math.max(...both)).toBe(1);
    expect(both.reduce((s, v) => s + v, 0)).toBe(400);
  });

  test('a frame beside the picture sees its own part', () => {
    const points: Point[] = [
      [3, 3],
      [50, 8],
      [40, 40],
      [8, 30],
    ];
    const whole = rasterise([{ op: 'add', kind: 'outline', points }], { x: 0, y: 0, width: W, height: H });
    const part = rasterise([{ op: 'add', kind: 'outline', points }], { x: 20, y: 11, width: 19, height: 17 });
    for (let y = 0; y < 17; y++)
      for (let x = 0; x < 19; x++) expect(part.data[y * 19 + x]).toBe(whole.data[(y + 11) * W + x + 20]);
  });
});
