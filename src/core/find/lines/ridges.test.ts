import type { Point } from '../../mask/shapes.ts';
import type { Plane } from '../../raster/luma.ts';
import { findRidges, joinRidges, lengthOf, type Ridge } from './ridges.ts';

const [W, H] = [200, 150];

/** A plane with bars of one tone, `half` px to both sides of lines, their edges exact. */
function plane(lines: Array<{ from: Point; to: Point; half: number; tone: number }>): Plane {
  const data = new Float32Array(W * H).fill(120);
  for (const { from, to, half, tone } of lines) {
    const [dx, dy] = [to[0] - from[0], to[1] - from[1]];
    const length = Math.hypot(dx, dy);
    for (let i = 0; i < data.length; i++) {
      const [x, y] = [(i % W) + 0.5 - from[0], Math.floor(i / W) + 0.5 - from[1]];
      const along = (x * dx + y * dy) / length;
      if (along < 0 || along > length) continue;
      const across = Math.abs(x * dy - y * dx) / length;
      data[i] += (tone - data[i]) * Math.min(1, Math.max(0, half + 0.5 - across));
    }
  }
  return { width: W, height: H, data };
}

const off = ([x, y]: Point, [ax, ay]: Point, [bx, by]: Point) =>
  Math.abs((bx - ax) * (ay - y) - (ax - x) * (by - ay)) / Math.hypot(bx - ax, by - ay);

const painted = (width: number, height: number, at: (x: number, y: number) => number): Plane => ({
  width,
  height,
  data: Float32Array.from({ length: width * height }, (_, i) => at(i % width, Math.floor(i / width))),
});

describe('crest lines', () => {
  const ring = (x: number, y: number) => Math.hypot(x - 60, y - 60) - 40;
  const line = painted(120, 120, (x, y) => 100 + 60 * Math.exp(-(ring(x + 0.5, y + 0.5) ** 2) / 3));

  test('follow a ring all the way round, on its middle', () => {
    const joined = joinRidges(findRidges(line, { sigma: 1 }));
    const [longest] = joined.sort((a, b) => b.points.length - a.points.length);
    expect(longest.light).toBe(true);
    expect(lengthOf(longest.points)).toBeGreaterThan(0.9 * 2 * Math.PI * 40);
    const off = longest.points.map(([x, y]) => Math.abs(ring(x, y)));
    expect(off.reduce((a, b) => a + b) / off.length).toBeLessThan(0.5);
  });

  test('dark lines are dark; a step between two tones is no line', () => {
    const dark = findRidges({ ...line, data: line.data.map((v) => 255 - v) }, { sigma: 1 });
    expect(dark.length).toBeGreaterThan(0);
    expect(dark.filter((r) => r.points.length > 20).every((r) => !r.light)).toBe(true);
    const step = findRidges(
      painted(120, 120, (x) => (x < 60 ? 60 : 180)),
      { sigma: 1, start: 12 },
    );
    // Beside a step the second derivative has a crest of its own, of at most a few levels a side, never on the step.
    expect(step.every((r) => r.points.every(([x]) => Math.abs(x - 60) > 0.6))).toBe(true);
  });
});

describe('ridges', () => {
  test.each([
    ['flat', [20, 75], [180, 78]],
    ['steep', [95, 10], [110, 140]],
    ['slanting', [30, 20], [160, 130]],
  ] as Array<[string, Point, Point]>)('a %s line is followed within a px from end to end', (_, from, to) => {
    for (const tone of [60, 190]) {
      const found = joinRidges(findRidges(plane([{ from, to, half: 1.2, tone }]), { sigma: 1 }));
      const long = found.filter((r) => lengthOf(r.points) > 40);
      const [ridge, ...lobes] = long.sort((a, b) => b.strength - a.strength);
      expect(ridge.light).toBe(tone > 120);
      // Beside it only the weak overshoot of the filter, the other way round.
      expect(lobes.every((l) => l.light !== ridge.light && l.strength < 0.35 * ridge.strength)).toBe(true);
      expect(Math.max(...ridge.points.map((p) => off(p, from, to)))).toBeLessThan(1.2);
      expect(lengthOf(ridge.points)).toBeGreaterThan(0.9 * Math.hypot(to[0] - from[0], to[1] - from[1]));
      // Response is in levels: about the contrast of the line.
      expect(ridge.strength).toBeGreaterThan(0.6 * Math.abs(tone - 120));
      expect(ridge.strength).toBeLessThan(1.4 * Math.abs(tone - 120));
    }
  });

  test('even ground has none', () => {
    expect(findRidges(plane([]), { sigma: 1 })).toEqual([]);
  });

  test('the stronger of two crossing lines is not cut by the weaker', () => {
    const found = findRidges(
      plane([
        { from: [100, 10], to: [100, 140], half: 1, tone: 160 },
        { from: [20, 75], to: [180, 75], half: 1, tone: 220 },
      ]),
      { sigma: 1 },
    );
    const flat = found.filter((r) => r.points.every(([, y]) => Math.abs(y - 75) < 3));
    expect(Math.max(...flat.map((r) => lengthOf(r.points)))).toBeGreaterThan(150);
  });
});

describe('joining', () => {
  const piece = (x0: number, x1: number, y: number, light = true): Ridge => ({
    light,
    strength: 20,
    points: Array.from({ length: x1 - x0 + 1 }, (_, i): Point => [x0 + i, y]),
  });

  test('pieces that go on across a gap become one, whichever way they are listed', () => {
    const right = piece(70, 120, 50);
    for (const second of [right, { ...right, points: right.points.slice().reverse() }]) {
      const joined = joinRidges([piece(10, 60, 50), second]);
      expect(joined).toHaveLength(1);
      const xs = joined[0].points.map((p) => p[0]);
      expect([Math.min(...xs), Math.max(...xs)]).toEqual([10, 120]);
      expect(lengthOf(joined[0].points)).toBeCloseTo(110, 5);
    }
  });

  test.each([
    ['too far apart', piece(120, 180, 50)],
    ['beside it', piece(66, 120, 60)],
    ['of the other tone', piece(66, 120, 50, false)],
    ['across it', { light: true, strength: 20, points: Array.from({ length: 50 }, (_, i): Point => [66, 30 + i]) }],
  ])('but not with what is %s', (_, other) => {
    expect(joinRidges([piece(10, 60, 50), other])).toHaveLength(2);
  });

  test('strength is the mean by length', () => {
    const [joined] = joinRidges([
      { ...piece(10, 59, 50), strength: 10 },
      { ...piece(64, 163, 50), strength: 40 },
    ]);
    expect(joined.strength).toBeCloseTo(30, 5);
  });
});
