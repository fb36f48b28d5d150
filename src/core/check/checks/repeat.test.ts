import { createRaster, type Raster } from '../../raster/raster.ts';
import { placeOf } from '../place.ts';
import { repeat } from './repeat.ts';

const SIZE = 320;
const noise = (n: number) => ((Math.imul(n ^ 0x9e3779b9, 2654435761) >>> 12) % 1000) / 1000;
/** Soft blobs by chance; what lies a period farther on is the same to the pixel. */
function ground(period: number): Raster {
  const out = createRaster(SIZE, SIZE, 3, 8);
  const tone = new Float32Array(SIZE * SIZE).fill(128);
  const cell = 10;
  const around = Math.ceil(period / cell);
  for (let v = -1; v <= SIZE / cell; v++)
    for (let u = -1; u <= SIZE / cell; u++) {
      const id = 2 * ((v + around) % around) * 977 + 2 * ((u + around) % around);
      const [x, y, deep] = [cell * (u + noise(id)), cell * (v + noise(id + 1)), 70 * (noise(id * 3 + 7) - 0.5)];
      for (let q = Math.max(0, Math.floor(y) - 8); q < Math.min(SIZE, y + 9); q++)
        for (let p = Math.max(0, Math.floor(x) - 8); p < Math.min(SIZE, x + 9); p++)
          tone[q * SIZE + p] += deep * Math.exp(-((p - x) ** 2 + (q - y) ** 2) / 12);
    }
  for (let i = 0; i < tone.length; i++) {
    const id = (Math.floor(i / SIZE) % period) * 7919 + ((i % SIZE) % period);
    out.data.fill(Math.round(tone[i] + 8 * (noise(id * 5 + 3) - 0.5)), 3 * i, 3 * i + 3);
  }
  return out;
}
const cover = { x: 130, y: 130, width: 70, height: 70 };
const what = Uint8Array.from({ length: SIZE * SIZE }, (_, i) => {
  const [x, y] = [(i % SIZE) - cover.x, Math.floor(i / SIZE) - cover.y];
  return x >= 0 && y >= 0 && x < cover.width && y < cover.height ? 1 : 0;
});

test('what was copied from beside is told with its distance', () => {
  const picture = ground(10 * SIZE);
  const shifted = { ...picture, data: picture.data.slice() };
  for (let y = cover.y; y < cover.y + cover.height; y++)
    for (let x = cover.x; x < cover.x + cover.width; x++)
      for (let c = 0; c < 3; c++) shifted.data[3 * (y * SIZE + x) + c] = picture.data[3 * (y * SIZE + x - 80) + c];
  expect(repeat(placeOf({ after: picture }, what, cover))).toEqual([]);
  const told = repeat(placeOf({ after: shifted }, what, cover));
  expect(told.length).toBeGreaterThan(0);
  expect(told[0].figure).toBeCloseTo(80, 0);
  expect(told[0].remedy).toBe('other-donor');
});

test('ground that repeats to the pixel all around gives nothing away', () => {
  expect(repeat(placeOf({ after: ground(40) }, what, cover))).toEqual([]);
});
