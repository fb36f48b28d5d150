import type { Point, Shape } from '../mask/shapes.ts';
import { createRaster, type Raster } from '../raster/raster.ts';
import { advise } from '../plan/advice.ts';
import { measureEnds } from './ends.ts';
import { probit } from './reach.ts';

const SIZE = 260;

/** An even ground that gets lighter downwards, with grain; dark where `share` says so. */
function picture(share: (x: number, y: number) => number, ground = (_x: number, y: number) => 150 + y / 8): Raster {
  const out = createRaster(SIZE, SIZE, 3, 8);
  let seed = 5;
  for (let y = 0, i = 0; y < SIZE; y++)
    for (let x = 0; x < SIZE; x++, i++) {
      seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff;
      const grain = ((seed >> 12) % 100) / 25 - 2;
      const s = share(x + 0.5, y + 0.5);
      for (let c = 0; c < 3; c++) out.data[3 * i + c] = Math.round((1 - s) * ground(x, y) + s * 40 + grain);
    }
  return out;
}
/** 1 inside, falling to 0 over `soft` px around an edge. */
const edge = (d: number, soft: number) => {
  const t = Math.min(1, Math.max(0, 0.5 - d / soft));
  return t * t * (3 - 2 * t);
};
const circle = (radius: number): Shape[] => [
  {
    op: 'add',
    kind: 'outline',
    points: Array.from({ length: 60 }, (_, n): Point => {
      const a = (n / 60) * 2 * Math.PI;
      return [130 + radius * Math.cos(a), 130 + radius * Math.sin(a)];
    }),
  },
];
const disc = (soft: number) => picture((x, y) => edge(Math.hypot(x - 130, y - 130) - 40, soft));
const strand = (size: number): Shape[] => [
  {
    op: 'add',
    kind: 'strand',
    points: [
      [20, 100],
      [130, 130],
      [240, 120],
    ],
    size,
  },
];

test.each([2, 8, 20, 36])('a disc with an edge of %d px, marked too small, ends where its edge does', (soft) => {
  const ends = measureEnds(disc(soft), circle(33))!;
  expect(Math.abs(ends.reach - (7 + soft / 2))).toBeLessThan(Math.max(2, 0.15 * soft));
  expect(ends.spread).toBeLessThan(0.1);
});

test('a strand with a soft edge is covered to its end, from both its sides', () => {
  const line = (x: number, y: number) => {
    const [ax, ay, bx, by] = x < 130 ? [20, 100, 130, 130] : [130, 130, 240, 120];
    return Math.abs((x - ax) * (by - ay) - (y - ay) * (bx - ax)) / Math.hypot(bx - ax, by - ay);
  };
  const ends = measureEnds(
    picture((x, y) => (x < 20 || x > 240 ? 0 : edge(line(x, y) - 3, 5))),
    strand(4.4),
  )!;
  expect(Math.abs(ends.reach - (0.8 + 2.5))).toBeLessThan(1.5);
});

test('what is proposed says how far the edge runs on; on uneven ground it stays as usual', () => {
  const soft = advise(disc(20), 'object', circle(33), 66);
  expect(soft.margin).toBeGreaterThanOrEqual(15);
  expect(soft.reason).toMatch(/It goes on \d px beyond its mark, its soft edge to 1\d px: margin 1\d\./);
  const whole = advise(disc(20), 'object', circle(40), 80);
  expect(whole.reason).toMatch(/Its edge runs on (8|9|10|11) px: margin/);
  const wild = picture(
    (x, y) => 0.5 * edge(Math.hypot(x - 130, y - 130) - 40, 20),
    (x, y) => (((x >> 3) + (y >> 3)) % 2 ? 40 : 210),
  );
  const unsure = advise(wild, 'object', circle(33), 66).reason;
  expect(unsure).not.toMatch(/runs on/);
  expect(unsure).toMatch(/Where it ends cannot be told on this ground\./);
});

test('nothing is said of what does not stand out, of spots and of marks beside the picture', () => {
  expect(
    measureEnds(
      picture(() => 0),
      circle(30),
    ),
  ).toBeNull();
  expect(measureEnds(disc(2), circle(4))).toBeNull();
  expect(measureEnds(disc(2), [{ op: 'add', kind: 'box', x: 900, y: 900, width: 40, height: 40 }])).toBeNull();
});

test('the inverse of the normal distribution', () => {
  // Handbook values (Abramowitz & Stegun, table 26.1).
  expect(probit(0.5)).toBeCloseTo(0, 6);
  expect(probit(0.841345)).toBeCloseTo(1, 4);
  expect(probit(0.975002)).toBeCloseTo(1.96, 3);
});
