import { rasterise } from '../../mask/shapes.ts';
import { createRaster, type Box, type Raster } from '../../raster/raster.ts';
import { toldByInk } from './ink.ts';

const [WIDTH, HEIGHT] = [420, 200];
/** A face of strokes 7 px wide: L, E, H and an O with a hole, each in a square of 60 px. */
const LETTERS: Array<[x: number, y: number, width: number, height: number]> = [
  [60, 70, 7, 60], [60, 123, 34, 7],
  [120, 70, 7, 60], [120, 70, 34, 7], [120, 97, 28, 7], [120, 123, 34, 7],
  [180, 70, 7, 60], [210, 70, 7, 60], [180, 97, 34, 7],
  [240, 70, 7, 60], [275, 70, 7, 60], [240, 70, 40, 7], [240, 123, 42, 7],
]; // prettier-ignore

/** A sepia print with tones and grain, blue-black where `ink` says so. */
function print(ink: (x: number, y: number) => boolean): Raster {
  const out = createRaster(WIDTH, HEIGHT, 3, 8);
  let seed = 11;
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++) {
      seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff;
      const v = 120 + 40 * Math.sin(x / 30) + 25 * Math.sin(y / 17) + ((seed >> 12) % 100) / 20;
      const tone = [v, 0.93 * v, 0.8 * v];
      const over = [39, 50, 78];
      for (let c = 0; c < 3; c++) out.data[3 * i + c] = ink(x, y) ? 0.12 * tone[c] + 0.88 * over[c] : tone[c];
    }
  return out;
}
const written = (x: number, y: number) =>
  LETTERS.some(([lx, ly, w, h]) => x >= lx && x < lx + w && y >= ly && y < ly + h);
const PLACE: Box = { x: 55, y: 60, width: 235, height: 80 };

test('lettering is told stroke by stroke, the hole of a letter left out, words of a line taken together', () => {
  const halves = [
    { ...PLACE, width: 100 },
    { ...PLACE, x: 170, width: 120 },
  ];
  const { lettering, unwritten } = toldByInk(print(written), halves);
  expect(unwritten).toEqual([false, false]);
  expect(lettering).toHaveLength(1);
  const [found] = lettering;
  expect(found.kind).toBe('lettering');
  expect(found.width).toBeGreaterThan(4);
  expect(found.width).toBeLessThan(14);
  const cover = rasterise(found.shapes, { x: 0, y: 0, width: WIDTH, height: HEIGHT }).data;
  let [hit, all, stray] = [0, 0, 0];
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++) {
      if (written(x, y)) {
        all++;
        if (cover[i]) hit++;
        // Farther than 3 px from any stroke nothing is covered.
      } else if (cover[i] && ![-3, 0, 3].some((d) => written(x + d, y) || written(x, y + d))) stray++;
    }
  expect(hit / all).toBeGreaterThan(0.98);
  expect(stray).toBeLessThan(20);
  expect(cover[97 * WIDTH + 261]).toBe(0);
});

test('a patch of the same ink is a stain, and a print without ink or without colour has no lettering', () => {
  const patch = print((x, y) => Math.hypot((x - 170) / 100, (y - 100) / 34) < 1);
  expect(toldByInk(patch, [PLACE])).toEqual({ lettering: [], unwritten: [true] });
  expect(
    toldByInk(
      print(() => false),
      [PLACE],
    ),
  ).toEqual({ lettering: [], unwritten: [true] });
  const grey = createRaster(WIDTH, HEIGHT, 1, 8);
  expect(toldByInk(grey, [PLACE])).toEqual({ lettering: [], unwritten: [true] });
});
