import { randomiser } from '../../../../bench/planted.ts';
import type { Point } from '../../mask/shapes.ts';
import type { Plane } from '../../raster/luma.ts';
import { textureDoubt, type Doubtful } from './texture-doubt.ts';

const [W, H] = [960, 640];

/** A picture whose left half is even, of a tone, and whose right half is full of detail. */
function scene(tone = 128): Plane {
  const random = randomiser(4);
  const data = Float32Array.from({ length: W * H }, (_, i) => (i % W < W / 2 ? tone + random() : 60 + 120 * random()));
  return { width: W, height: H, data };
}
const sure = 0.9;
/** Things that seem to be specks, strewn from one column to another. */
function specks(count: number, from: number, to: number, change: Partial<Doubtful> = {}): Doubtful[] {
  const random = randomiser(count + from);
  return Array.from({ length: count }, () => ({
    points: [[from + (to - from) * random(), H * random()] as Point],
    light: true,
    score: sure,
    ...change,
  }));
}
const QUIET = [0, W / 2 - 64] as const;
const BUSY = [W / 2 + 64, W] as const;
const doubts = (list: Doubtful[], plane = scene()) => Array.from(textureDoubt(list, plane));

describe('what lies on busy ground alone', () => {
  test('is doubted, the more of it the more, what lies on quiet ground never', () => {
    const many = doubts([...specks(30, ...BUSY), ...specks(1, ...QUIET)]);
    // As if there were what lies on the quiet half, its scatter and one more; the two halves are as large to a few cells.
    const expected = Math.log((sure + Math.sqrt(sure) + 1) / (30 * sure));
    for (const d of many.slice(0, 30)) expect(Math.abs(d - expected)).toBeLessThan(0.1);
    expect(many[30]).toBe(0);
    const few = doubts(specks(3, ...BUSY));
    expect(few[0]).toBeLessThan(0);
    expect(few[0]).toBeGreaterThan(many[0]);
    expect(Math.min(...doubts(specks(4000, ...BUSY)))).toBe(-4);
  });

  test('is not doubted where as much lies on the quiet half, or next to nothing on either', () => {
    expect(doubts([...specks(30, ...BUSY), ...specks(30, ...QUIET)]).every((d) => d === 0)).toBe(true);
    expect(doubts(specks(1, ...BUSY))).toEqual([0]);
    // What is hardly likely counts hardly.
    expect(doubts(specks(30, ...BUSY, { score: 0.002 })).every((d) => d === 0)).toBe(true);
    expect(doubts([])).toEqual([]);
  });

  test('light and dark ones are told apart, and only by where they would show', () => {
    const light = specks(30, ...BUSY);
    const dark = specks(30, ...BUSY, { light: false });
    const some = doubts([...light, ...dark, ...specks(30, ...QUIET, { light: false })]);
    expect(some[0]).toBeLessThan(-2);
    expect(some[30]).toBe(0);
    // No light speck shows on paper white, no dark one on black.
    const onWhite = doubts([...light, ...dark], scene(240));
    expect(onWhite[0]).toBe(0);
    expect(onWhite[30]).toBeLessThan(-2);
    const onBlack = doubts([...light, ...dark], scene(10));
    expect(onBlack[0]).toBeLessThan(-2);
    expect(onBlack[30]).toBe(0);
    // Where ground on which they would show is nowhere busy there is nothing to go by.
    const paper = { width: W, height: H, data: Float32Array.from(scene().data, (v) => (v > 135 ? 240 : v)) };
    for (let i = 0; i < W * H; i++) if (i % W >= W / 2) paper.data[i] = 205 + (i % 7) * 7;
    expect(doubts(light, paper).every((d) => d === 0)).toBe(true);
  });

  test('a line lies where most of it does, and counts as it is weighed', () => {
    const line = (from: number, to: number, y: number, weight = 1): Doubtful => ({
      points: Array.from({ length: 101 }, (_, i): Point => [from + ((to - from) * i) / 100, y]),
      light: true,
      score: 0.95,
      weight,
    });
    const across = [
      ...Array.from({ length: 12 }, (_, n) => line(W / 2 - 80, W - 40, 20 + 50 * n)),
      ...Array.from({ length: 2 }, (_, n) => line(40, W / 2 + 80, 45 + 50 * n)),
    ];
    const all = doubts(across);
    expect(all[0]).toBeLessThan(-0.5);
    expect(all.slice(12)).toEqual([0, 0]);
    // Two long ones on the quiet half are as good as many short ones.
    const long = doubts([...across.slice(0, 12), ...across.slice(12).map((l) => ({ ...l, weight: 4 }))]);
    expect(long[0]).toBeGreaterThan(all[0] + 0.5);
  });
});

test('a few specks do not make quiet ground busy', () => {
  const plane = scene();
  const dust = specks(40, ...QUIET);
  for (const { points } of dust) {
    const [x, y] = points[0].map(Math.floor);
    for (let v = Math.max(0, y - 2); v <= Math.min(H - 1, y + 2); v++)
      for (let u = Math.max(0, x - 2); u <= x + 2; u++) plane.data[v * W + u] = 230;
  }
  expect(doubts([...dust, ...specks(40, ...BUSY)], plane).every((d) => d === 0)).toBe(true);
});
