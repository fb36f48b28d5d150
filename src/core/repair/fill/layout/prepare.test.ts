import { createRaster } from '../../../raster/raster.ts';
import { prepare, sameWindow, windowOf, type LayoutRegion } from './prepare.ts';

const WIDTH = 360;
const HEIGHT = 220;

/** Coarse courses on the left, around a cover; an even ground of the same mean tone on the right. */
function region(more: Partial<LayoutRegion> = {}): LayoutRegion {
  const picture = createRaster(WIDTH, HEIGHT, 3, 8);
  const cover = new Uint8Array(WIDTH * HEIGHT);
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++) {
      const tone = x < 240 ? 100 + (((x >> 3) + (y >> 3)) % 2 ? 40 : -40) : 100;
      picture.data.fill(tone, 3 * i, 3 * i + 3);
      if (x >= 110 && x < 165 && y >= 80 && y < 135) cover[i] = 1;
    }
  return { picture, cover, allowed: cover.map((v) => 1 - v), ...more };
}

test('a further try of a cover finds its window prepared, whatever was left out of it', () => {
  const prepared = prepare(windowOf(region()));
  // Something was left out for being unlike what is around.
  expect(prepared.levels[0].allowed).not.toEqual(prepared.allowed);
  expect(sameWindow(prepared, windowOf(region()))).toBe(true);
  const barred = region();
  barred.allowed[5 * WIDTH + 60] = 0;
  expect(sameWindow(prepared, windowOf(barred))).toBe(false);
  expect(sameWindow(prepared, windowOf(region({ chosen: true })))).toBe(false);
});

test('where somebody says donors are taken from, none of it is left out', () => {
  const prepared = prepare(windowOf(region({ chosen: true })));
  expect(prepared.levels[0].allowed).toEqual(prepared.allowed);
});
