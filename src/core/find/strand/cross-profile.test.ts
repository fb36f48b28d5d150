import type { Point } from '../../mask/shapes.ts';
import { crossProfile } from './cross-profile.ts';

/** Luma of a level bar about y = 50 with edges blurred by a Gaussian, on a ground that slopes from side to side. */
const bar =
  ({ width = 6, tone = 40, ground = 160, slope = 0, sigma = 0.3, y0 = 50 }) =>
  (_: number, y: number): number => {
    const half = width / 2;
    // The Gaussian's integral by a logistic curve close to it (from memory: within 0.01).
    const edge = (d: number) => 1 / (1 + Math.exp((-1.702 * d) / sigma));
    const share = edge(y - y0 + half) - edge(y - y0 - half);
    const beside = ground + slope * (y - y0);
    return beside + (tone - beside) * share;
  };
const along = (y: number): Point[] => Array.from({ length: 30 }, (_, i): Point => [10 + 2 * i, y]);
const middle = <T>(list: T[]): T => list[15];

describe('measuring across a line', () => {
  test.each([
    [3, 0.3],
    [6, 0.3],
    [6, 1.5],
    [12, 2],
  ])('a bar %d px wide with edges blurred by %d px', (width, sigma) => {
    const m = crossProfile(bar({ width, sigma }), along(50), width);
    expect(middle(m.widths)).toBeCloseTo(width, 0);
    expect(Math.abs(middle(m.offsets))).toBeLessThan(0.05);
    // A blur wider than the bar takes from its height.
    expect(Math.abs(middle(m.contrasts) + 120)).toBeLessThan(10);
    if (sigma > 1) expect(Math.abs(middle(m.blurs) - sigma)).toBeLessThan(0.35);
    // Sampling alone makes edges that soft.
    else expect(middle(m.blurs)).toBeLessThan(0.8);
  });

  test('says how far the line lies beside the centre, to which side, and light from dark', () => {
    for (const off of [-1.4, -0.5, 0.7, 1.5]) {
      const m = crossProfile(bar({ y0: 50 + off }), along(50), 6);
      expect(middle(m.offsets)).toBeCloseTo(off, 1);
    }
    expect(middle(crossProfile(bar({ tone: 230 }), along(50), 6).contrasts)).toBeCloseTo(70, -1);
  });

  test('a ground that slopes across does not move the centre', () => {
    const m = crossProfile(bar({ slope: 3 }), along(50), 6);
    expect(Math.abs(middle(m.offsets))).toBeLessThan(0.25);
    expect(middle(m.widths)).toBeCloseTo(6, 0);
  });

  test('sees nothing on even ground, at an edge, or where something far wider is', () => {
    const nothing = (read: (x: number, y: number) => number) =>
      expect(crossProfile(read, along(50), 4).widths.every((w) => w === 0)).toBe(true);
    nothing(() => 120);
    nothing((_, y) => (y < 50 ? 60 : 180));
    nothing(bar({ width: 40 }));
  });

  test('gives one figure to each point, and turns with the line', () => {
    const upright = (x: number, y: number) => bar({})(y, x);
    const points = along(50).map(([x, y]): Point => [y, x]);
    const m = crossProfile(upright, points, 6);
    const level = crossProfile(bar({}), along(50), 6);
    for (const key of ['offsets', 'widths', 'blurs', 'contrasts'] as const) {
      expect(m[key]).toHaveLength(30);
      m[key].forEach((v, i) => expect(Math.abs(v)).toBeCloseTo(Math.abs(level[key][i]), 4));
    }
  });
});
