import { createRaster, type Raster } from '../../raster/raster.ts';
import type { Point } from '../../mask/shapes.ts';
import { smoothed } from '../lines/series.ts';
import { CURVE_FEATURES, curveMeter } from '../lines/line-features.ts';
import { fadeModel } from './fade-model.ts';
import { lumaPlane } from '../../raster/luma.ts';
import type { Segment } from '../specks/speck-colour.ts';
import { speckFeatures } from '../specks/speck-features.ts';

const [W, H] = [120, 90];

function painted(paint: (x: number, y: number) => readonly [number, number, number]): Raster {
  const picture = createRaster(W, H, 3, 8);
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) paint(x, y).forEach((v, c) => (picture.data[(y * W + x) * 3 + c] = v));
  return picture;
}

const grey = (v: number): [number, number, number] => [v, v, v];

describe('what tells specks', () => {
  const ellipse = (x: number, y: number, turn: number) => {
    const [p, q] = [x + 0.5 - 60, y + 0.5 - 45];
    const [u, v] = [p * Math.cos(turn) + q * Math.sin(turn), q * Math.cos(turn) - p * Math.sin(turn)];
    return Math.hypot(u / 12, v / 6);
  };
  const segmentOf = (turn: number): Segment => {
    const mask = Uint8Array.from({ length: W * H }, (_, i) => (ellipse(i % W, Math.floor(i / W), turn) < 1 ? 1 : 0));
    return { x: 0, y: 0, width: W, height: H, mask, area: mask.reduce((a, b) => a + b, 0) };
  };
  const measured = (turn: number, paint: Parameters<typeof painted>[0], light = false) => {
    const picture = painted(paint);
    return speckFeatures(picture, { width: W, height: H, data: lumaPlane(picture) }, segmentOf(turn), light)!;
  };
  const dark = (turn: number) => measured(turn, (x, y) => grey(ellipse(x, y, turn) < 1 ? 60 : 160));

  test('an even dark ellipse on even ground', () => {
    const f = dark(0);
    expect(f.contrast).toBeCloseTo(100, 5);
    expect(f.opacity).toBeCloseTo(100 / 160, 2);
    expect(f.aspect).toBeCloseTo(0.5, 1);
    expect(f.solid).toBeCloseTo(1, 1);
    expect(f.size).toBeCloseTo(2 * Math.sqrt(72), 0);
    expect(f.crisp).toBeCloseTo(1, 5);
    expect(f.roughCore).toBe(0);
    expect(f.lopsided).toBeCloseTo(0, 5);
    expect(f.misfit).toBeLessThan(0.12);
    expect(f.coloured).toBeLessThan(0.01);
    expect(f.light).toBe(0);
    expect([f.rival, f.counter]).toEqual([expect.closeTo(0, 1), expect.closeTo(0, 1)]);
  });

  test('turning it changes nothing that counts', () => {
    const [a, b] = [dark(0), dark(0.6)];
    for (const key of ['solid', 'aspect', 'misfit', 'crisp', 'size', 'clear'] as const)
      expect(Math.abs(a[key] - b[key])).toBeLessThan(0.06 * Math.max(1, Math.abs(a[key])));
  });

  test('beside an edge it is lopsided, near its like it has a rival, with a colour it is coloured', () => {
    const edge = measured(0, (x, y) => grey(ellipse(x, y, 0) < 1 ? 60 : x < 60 ? 120 : 200));
    expect(edge.lopsided).toBeGreaterThan(0.6);
    const twin = measured(0, (x, y) => grey(ellipse(x, y, 0) < 1 || Math.hypot(x - 84, y - 45) < 5 ? 60 : 160));
    expect(twin.rival).toBeGreaterThan(0.9);
    const red = measured(0, (x, y) => (ellipse(x, y, 0) < 1 ? [150, 30, 30] : [160, 160, 160]));
    expect(red.coloured).toBeGreaterThan(0.4);
  });

  test('what does not differ the way it should is none', () => {
    const picture = painted(() => grey(100));
    const plane = { width: W, height: H, data: lumaPlane(picture) };
    expect(speckFeatures(picture, plane, segmentOf(0), true)).toBeNull();
  });
});

describe('what tells curves', () => {
  const points: Point[] = Array.from({ length: 80 }, (_, i) => [20.5 + i, 45.5]);
  const meter = (paint: Parameters<typeof painted>[0]) => {
    const picture = painted(paint);
    const measure = curveMeter(picture, { width: W, height: H, data: lumaPlane(picture) });
    return measure({ points, light: true, strength: 50 }, 1).measure(0, points.length);
  };
  const line = (x: number, y: number) => y >= 44 && y <= 46 && x >= 20 && x < 100;

  test('a straight even light line', () => {
    const f = meter((x, y) => grey(line(x, y) ? 180 : 100))!;
    expect(f.contrast).toBeCloseTo(80, 0);
    expect(f.width).toBeCloseTo(3, 0);
    expect(f.length).toBeGreaterThan(70);
    expect(f.seen).toBe(1);
    expect(f.uneven).toBeLessThan(0.05);
    expect(f.lopsided).toBeLessThan(0.01);
    expect(f.bow).toBeLessThan(0.01);
    expect(f.turning).toBeLessThan(0.05);
    expect(f.rival).toBeLessThan(0.05);
    // It stops at its ends.
    expect(f.beyond).toBeLessThan(0.3);
    expect(f.weakest).toBeGreaterThan(0.9);
  });

  test('a line that goes on, has another beside it, or lies on an edge says so', () => {
    expect(meter((_, y) => grey(y >= 44 && y <= 46 ? 180 : 100))!.beyond).toBeGreaterThan(0.8);
    const double = meter((x, y) => grey(line(x, y) || (x >= 20 && x < 100 && y >= 54 && y <= 56) ? 180 : 100))!;
    expect(double.rival).toBeGreaterThan(0.5);
    const edge = meter((x, y) => grey(line(x, y) ? 180 : y < 45 ? 100 : 150))!;
    expect(edge.lopsided).toBeGreaterThan(0.5);
  });

  test('ground that goes on under it varies alike on both sides', () => {
    const f = meter((x, y) => grey(line(x, y) ? 200 : 100 + Math.round(40 * Math.sin(x / 5))))!;
    expect(f.alike).toBeGreaterThan(0.95);
    expect(f.unevenRatio).toBeLessThan(0.2);
  });

  test('a piece is measured as if it stood alone', () => {
    // Two halves that differ in all that is measured: tone, width, what is beside them, their course.
    const picture = painted((x, y) => {
      const first = x < 60;
      if (first ? y >= 44 && y <= 46 : Math.abs(y - 45) < 1) return first ? [190, 190, 190] : [200, 120, 110];
      return grey(100 + (first ? 0 : ((x * 7 + y * 13) % 5) * 6));
    });
    const plane = { width: W, height: H, data: lumaPlane(picture) };
    const crowd = ([x]: Point) => x / 10;
    const sample = curveMeter(picture, plane, crowd);
    const whole = sample({ points, light: true, strength: 50 }, 1);
    for (const [from, to] of [
      [0, 36],
      [44, 80],
      [10, 70],
      [0, 80],
    ]) {
      const piece = whole.measure(from, to)!;
      const alone = sample({ points: points.slice(from, to), light: true, strength: 50 }, 1).measure(0, to - from)!;
      for (const key of CURVE_FEATURES) expect([key, piece[key]]).toEqual([key, expect.closeTo(alone[key], 3)]);
    }
    const [left, right] = [whole.measure(0, 36)!, whole.measure(44, 80)!];
    expect(left.contrast).toBeGreaterThan(right.contrast);
    expect(left.width).toBeGreaterThan(right.width + 0.5);
    expect(right.coloured).toBeGreaterThan(left.coloured + 0.1);
    // Too short to be measured.
    expect(whole.measure(10, 16)).toBeNull();
  });

  test('where nothing stands out there is no curve', () => {
    expect(meter(() => grey(100))).toBeNull();
  });
});

test('smoothing keeps a straight line and the ends of any', () => {
  const straight: Point[] = [0, 1, 2, 3, 4, 5].map((x) => [x, 2 * x]);
  expect(smoothed(straight, 2)).toEqual(straight);
  const bent: Point[] = [0, 1, 2, 3, 4].map((x) => [x, x * x]);
  expect(smoothed(bent, 2)[0]).toEqual(bent[0]);
  expect(smoothed(bent, 2)[4]).toEqual(bent[4]);
});

test('fading to white or black is told from taking on a colour', () => {
  const ground = [0.5, 0.4, 0.3];
  const faded = ground.map((v) => v + (1 - v) * 0.25);
  expect(fadeModel(faded, ground, true).coloured).toBeLessThan(1e-3);
  expect(fadeModel(faded, ground, true).opacity).toBeCloseTo(0.25, 6);
  const black = ground.map((v) => v * 0.4);
  expect(fadeModel(black, ground, false).opacity).toBeCloseTo(0.6, 6);
  expect(fadeModel([0.5, 0.6, 0.3], ground, true).coloured).toBeGreaterThan(0.6);
});
