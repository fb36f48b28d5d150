import { boxOf, contains, createRaster, type Raster } from '../raster/raster.ts';
import { deliveredOf } from './chain.ts';
import { canvas } from './canvas.ts';
import type { StepSpec } from './registry.ts';
import { chained, pixelsOf } from './step.ts';
import { largestWithin, turn } from './turn.ts';

/** A smooth picture: a tone that any place can be asked for. */
const tone = (x: number, y: number) => 128 + 60 * Math.sin(x / 19) + 50 * Math.cos(y / 23 + x / 41);
function smooth(width: number, height: number, channels: Raster['channels'] = 3, depth: Raster['depth'] = 8): Raster {
  const out = createRaster(width, height, channels, depth);
  const scale = depth === 16 ? 257 : 1;
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (let c = 0; c < channels; c++, i++) out.data[i] = Math.round(scale * (tone(x + 0.5, y + 0.5) - 5 * c));
  return out;
}
const level = (degrees: number, crop: Extract<StepSpec, { step: 'turn' }>['crop'] = null): StepSpec => ({
  step: 'turn',
  degrees,
  about: [100, 60],
  crop,
});

test.each([8, 16] as const)('each pixel is what the picture shows where it comes from, %i bit', (depth) => {
  const source = smooth(200, 120, 3, depth);
  const crop = largestWithin(boxOf(source), 7);
  const out = deliveredOf(source, [level(7, crop)], []);
  expect(out.extent).toEqual(crop);
  expect(out.gap(crop)).toBeNull();
  const seen = out.read(crop);
  const [cos, sin] = [Math.cos((7 * Math.PI) / 180), Math.sin((7 * Math.PI) / 180)];
  let most = 0;
  for (let y = 4; y < crop.height - 4; y++)
    for (let x = 4; x < crop.width - 4; x++) {
      const [u, v] = [crop.x + x + 0.5 - 100, crop.y + y + 0.5 - 60];
      const is = seen.data[3 * (y * crop.width + x)] / (depth === 16 ? 257 : 1);
      most = Math.max(most, Math.abs(is - tone(100 + u * cos - v * sin, 60 + u * sin + v * cos)));
    }
  expect(most).toBeLessThan(depth === 16 ? 0.1 : 1.2);
});

test('a line that leans by so much is level after it', () => {
  const source = createRaster(300, 200, 1, 8);
  const slope = Math.tan((3 * Math.PI) / 180);
  for (let y = 0; y < 200; y++)
    for (let x = 0; x < 300; x++) source.data[y * 300 + x] = y + 0.5 > 100 + (x + 0.5 - 150) * slope ? 220 : 40;
  const out = deliveredOf(source, [{ step: 'turn', degrees: 3, about: [150, 100], crop: null }], []);
  const row = (x: number) => {
    const column = out.read({ x, y: 60, width: 1, height: 80 }).data;
    return column.findIndex((v) => v > 130);
  };
  expect(row(40)).toBe(row(260));
  expect(row(40)).toBe(row(150));
});

test('what lies beyond the picture is a gap; the largest box within has none, of any proportion', () => {
  const source = smooth(200, 120);
  const out = deliveredOf(source, [level(5)], []);
  expect(contains(out.extent, boxOf(source))).toBe(true);
  const gap = out.gap(out.extent)!;
  expect(gap[0]).toBe(1);
  // As much is a gap as the box around is larger than the picture.
  const gaps = gap.reduce((s, v) => s + v, 0);
  expect(gaps / (out.extent.width * out.extent.height - 200 * 120)).toBeCloseTo(1, 1);
  for (const degrees of [-8, -1, 2, 20])
    for (const ratio of [undefined, 1, 16 / 9, 2 / 3]) {
      const crop = largestWithin(boxOf(source), degrees, ratio);
      expect(deliveredOf(source, [level(degrees, crop)], []).gap(crop)).toBeNull();
      if (ratio) expect(crop.width / crop.height).toBeCloseTo(ratio, 1);
    }
});

test('turned by nothing it copies sample by sample, and a canvas grown before it is turned with it', () => {
  const source = smooth(60, 40, 4, 16);
  const crop = { x: 10, y: 5, width: 30, height: 20 };
  const out = deliveredOf(source, [level(0, crop)], []);
  expect(out.read(crop).data).toEqual(pixelsOf(source).read(crop).data);
  const grown = chained(pixelsOf(source), [
    canvas({ x: -40, y: 0, width: 100, height: 40 }),
    turn({ degrees: 90 / 9, about: [10, 20], crop: null }),
  ]);
  expect(grown.extent.width).toBeGreaterThan(100);
  expect(grown.gap({ x: -30, y: 20, width: 1, height: 1 })![0]).toBe(1);
  expect(grown.gap({ x: 20, y: 20, width: 1, height: 1 })).toBeNull();
});

test('what a repair holds beyond the canvas stays out, turned or not', () => {
  const source = smooth(60, 40);
  const data = new Uint8Array(20 * 40 * 4).fill(255);
  const patch = { x: -20, y: 0, width: 20, height: 40, channels: 4 as const, depth: 8 as const, data };
  const layers = [{ patch, strength: 1 }];
  expect(deliveredOf(source, [], layers).extent).toEqual(boxOf(source));
  const turned = deliveredOf(source, [{ step: 'turn', degrees: 4, about: [30, 20], crop: null }], layers);
  expect(turned.gap({ x: -2, y: 20, width: 1, height: 1 })![0]).toBe(1);
});

test('alpha is turned with the picture', () => {
  const source = smooth(80, 80, 4);
  for (let y = 0; y < 80; y++) for (let x = 0; x < 80; x++) source.data[4 * (y * 80 + x) + 3] = x < 40 ? 255 : 0;
  const out = chained(pixelsOf(source), [turn({ degrees: 10, about: [40, 40], crop: null })]);
  const seen = out.read({ x: 10, y: 40, width: 60, height: 1 });
  expect([seen.data[3], seen.data[4 * 59 + 3]]).toEqual([255, 0]);
});

test('where a place goes is where it is seen', () => {
  const step = turn({ degrees: 12, about: [30, 20], crop: null });
  const [x, y] = step.map([50, 20]);
  expect(x).toBeCloseTo(30 + 20 * Math.cos(Math.PI / 15), 6);
  // It leant clockwise, so that its right end comes up again.
  expect(y).toBeCloseTo(20 - 20 * Math.sin(Math.PI / 15), 6);
});
