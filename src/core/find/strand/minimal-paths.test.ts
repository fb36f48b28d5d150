import { straighten, type StraightenedBand } from './straightened-band.ts';
import { minimalPaths } from './minimal-paths.ts';

const LENGTH = 200;
const REACH = 30;
/** A strip of even ground with what is painted on it by row and offset across. */
const stripOf = (paint: (row: number, across: number) => number): StraightenedBand =>
  straighten((x, y) => paint(x, y), [0, 0], [LENGTH, 0], REACH);
const first = (strip: StraightenedBand) => minimalPaths(strip, 1).next().value!;
const most = (list: number[], f: (row: number) => number) =>
  list.reduce((worst, v, row) => (row < 8 || row > LENGTH - 8 ? worst : Math.max(worst, Math.abs(v - f(row)))), 0);

describe('ways along a strip', () => {
  test('the first follows a dark line and a light one, and tells about how wide it is', () => {
    for (const tone of [40, 240]) {
      const way = first(stripOf((_, k) => (Math.abs(k) <= 2 ? tone : 150)));
      expect(way.across).toHaveLength(LENGTH + 1);
      expect(most(way.across, () => 0)).toBeLessThanOrEqual(1);
      expect(way.halves[100]).toBe(2);
    }
  });

  test('follows a sag, and costs less the more the line stands out', () => {
    const sag = (row: number) => (4 * 18 * row * (LENGTH - row)) / LENGTH ** 2;
    const line = (tone: number) => first(stripOf((row, k) => (Math.abs(k - sag(row)) <= 1.5 ? tone : 150)));
    const [plain, faint] = [line(40), line(130)];
    expect(most(plain.across, sag)).toBeLessThan(1.5);
    expect(most(faint.across, sag)).toBeLessThan(1.5);
    expect(plain.cost).toBeLessThan(faint.cost / 2);
  });

  test('goes on where dark before light turns to light before dark', () => {
    const way = first(stripOf((row, k) => (Math.abs(k) <= 2 ? 120 : row < 100 ? 200 : 40)));
    expect(most(way.across, () => 0)).toBeLessThanOrEqual(1);
  });

  test('a way that does not hang comes first only when it costs clearly less', () => {
    // A line of two bends, which no parabola follows.
    const bent = (row: number) => 14 * Math.sin((2 * Math.PI * row) / LENGTH);
    const clear = first(stripOf((row, k) => (Math.abs(k - bent(row)) <= 1.5 ? 30 : 150)));
    expect(most(clear.across, bent)).toBeLessThan(2);
    // Beside one that hangs and stands out as well, that one comes first.
    const both = first(stripOf((row, k) => (Math.abs(k - bent(row)) <= 1.5 || Math.abs(k) <= 1.5 ? 30 : 150)));
    expect(most(both.across, () => 0)).toBeLessThan(1.5);
  });

  test('others follow, each near another sag, so that a fainter line between strong ones is among them, but none far dearer', () => {
    const sags = [-16, 0, 16];
    const middlesWith = (faint: number) => {
      const strip = stripOf((row, k) => {
        const at = sags.findIndex((s) => Math.abs(k - (4 * s * row * (LENGTH - row)) / LENGTH ** 2) <= 1.5);
        return at < 0 ? 150 : at === 1 ? 150 - faint : 90;
      });
      return [...minimalPaths(strip, 1)].map((w) => w.across[LENGTH / 2]);
    };
    const near = (list: number[], sag: number) => list.some((m) => Math.abs(m - sag) <= 1.5);
    const middles = middlesWith(38);
    for (const sag of sags) expect(near(middles, sag)).toBe(true);
    expect(Math.abs(middles[0])).toBeGreaterThan(10);
    const without = middlesWith(8);
    expect(sags.map((sag) => near(without, sag))).toEqual([true, false, true]);
  });

  test('what is dear everywhere still has a way from end to end', () => {
    const ways = [
      ...minimalPaths(
        stripOf(() => 90),
        1,
      ),
    ];
    expect(ways.length).toBeGreaterThan(1);
    for (const { across, cost } of ways) {
      expect(cost).toBeGreaterThan(0.9 * LENGTH);
      expect(across.every((k) => Math.abs(k) <= REACH)).toBe(true);
    }
  });
});
