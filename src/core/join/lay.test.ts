import { createRaster } from '../raster/raster.ts';
import { NO_TURN, type Camera } from './camera.ts';
import { FINE, layFrame, ownersOf, planesOf, takeOver } from './lay.ts';
import { fromLight, toLight } from './light.ts';
import type { Projection } from './projection.ts';

const camera: Camera = { width: 96, height: 64, focal: 200, bend: 0, turn: NO_TURN };
/** Laid flat by its own focal length a frame stays as it is. */
const projection: Projection = { kind: 'flat', focal: 200, turn: NO_TURN };

function frame(depth: 8 | 16) {
  const raster = createRaster(96, 64, 3, depth);
  const full = depth === 16 ? 65535 : 255;
  for (let i = 0; i < raster.data.length; i++) raster.data[i] = Math.round(full * (0.3 + 0.2 * Math.sin(i / 37)));
  return raster;
}

/** px of a laid frame that stand for a px of the frame: its middle lies half a px off. */
const at = (box: { x: number; y: number; width: number }, x: number, y: number) =>
  (y - 32 - box.y) * box.width + x - 48 - box.x;

test.each([8, 16] as const)('a frame that is neither turned nor lit stays as it is, %i bit', (depth) => {
  const raster = frame(depth);
  // Seen half a px aside, so that px lie on px.
  const { box, valid, data } = layFrame(
    raster,
    { ...camera, width: 97, height: 65 },
    projection,
    () => 0,
    () => undefined,
  );
  const full = depth === 16 ? 65535 : 255;
  let looked = 0;
  for (let y = 4; y < 60; y++)
    for (let x = 4; x < 90; x++) {
      const i = at(box, x, y);
      expect(valid[i]).toBe(1);
      for (let c = 0; c < 3; c++)
        expect(Math.abs(data[3 * i + c] / FINE - raster.data[3 * (y * 96 + x) + c] / full)).toBeLessThan(2e-3);
      looked++;
    }
  expect(looked).toBeGreaterThan(4000);
});

test('stops are stops of light: one of them doubles it, whatever lies between the steps of the tables', () => {
  const raster = createRaster(96, 64, 1, 8);
  raster.data.fill(100);
  for (const stops of [1, -0.37, 0.013]) {
    const { box, data } = layFrame(
      raster,
      camera,
      projection,
      () => stops,
      () => undefined,
    );
    expect(data[at(box, 40, 30)] / FINE).toBeCloseTo(fromLight(toLight(100 / 255) * 2 ** stops), 3);
  }
});

test('what is made lighter than white is white, and beyond the frame there is nothing', () => {
  const raster = createRaster(96, 64, 1, 8);
  raster.data.fill(240);
  const { box, valid, data } = layFrame(
    raster,
    camera,
    projection,
    () => 2,
    () => undefined,
  );
  expect(data[at(box, 40, 30)]).toBe(FINE);
  const all = valid.reduce((a, b) => a + b, 0);
  expect(all).toBeGreaterThan(0.9 * 96 * 64);
  expect(all).toBeLessThanOrEqual(96 * 64);
});

test('every px has one owner: the frame that was wanted, or another where that shows nothing', () => {
  const box = { x: 0, y: 0, width: 64, height: 64 };
  const layer = (from: number, to: number) => ({
    box,
    valid: Uint8Array.from({ length: 64 * 64 }, (_, i) => (i % 64 >= from && i % 64 < to ? 1 : 0)),
    data: new Uint16Array(64 * 64),
  });
  // Decided at a quarter of the size, where frames seem to end elsewhere.
  const labels = Uint8Array.from({ length: 16 * 16 }, (_, i) => (i % 16 < 9 ? 1 : 2));
  const [a, b] = ownersOf([layer(0, 33), layer(20, 64)], labels, 16, 16, box, 4);
  for (let x = 0; x < 64; x++) {
    expect(a[x] + b[x]).toBe(1);
    if (x < 33) expect(a[x]).toBe(1);
  }
});

test('a channel is taken out of all layers, one after another', () => {
  const box = { x: 0, y: 0, width: 2, height: 1 };
  const layer = (...values: number[]) => ({ box, valid: new Uint8Array(2), data: Uint16Array.from(values) });
  const planes = [...planesOf([layer(1, 2, 3, 4, 5, 6), layer(7, 8, 9, 10, 11, 12)], 1, 3)].map((p) => [...p]);
  expect(planes).toEqual([
    [2, 5],
    [8, 11],
  ]);
});

test('where something moved a frame shows what is shown of another, elsewhere its own', () => {
  const canvas = { x: 0, y: 0, width: 64, height: 64 };
  const layer = (value: number) => ({
    box: canvas,
    valid: new Uint8Array(64 * 64).fill(1),
    data: new Uint16Array(3 * 64 * 64).fill(value),
  });
  const [left, right] = [layer(100), layer(900)];
  const owner = (own: (x: number) => boolean) => Uint8Array.from({ length: 64 * 64 }, (_, i) => (own(i % 64) ? 1 : 0));
  // On the canvas reduced by four the right frame has something else from column 20 to 39.
  const moved = Uint8Array.from({ length: 16 * 16 }, (_, i) => (i % 16 >= 5 && i % 16 < 10 ? 1 : 0));
  takeOver([left, right], [owner((x) => x < 32), owner((x) => x >= 32)], [new Uint8Array(256), moved], {
    w: 16,
    canvas,
    scale: 4,
    colours: 3,
  });
  const row = (data: Uint16Array) => Array.from({ length: 64 }, (_, x) => data[3 * (30 * 64 + x) + 1]);
  expect(row(left.data)).toEqual(Array.from({ length: 64 }, () => 100));
  // What is shown of it stays its own.
  expect(row(right.data)).toEqual(Array.from({ length: 64 }, (_, x) => (x >= 20 && x < 32 ? 100 : 900)));
});
