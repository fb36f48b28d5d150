import { createRaster } from '../../raster/raster.ts';
import { placeOf } from '../place.ts';
import { seam } from './seam.ts';

const [WIDTH, HEIGHT, EDGE] = [260, 1500, 100];

/** Light above dark with grain, whose border lies by so many px higher in the covered side at the left. */
function signs(higher: number) {
  const after = createRaster(WIDTH, HEIGHT, 3, 8);
  const what = new Uint8Array(WIDTH * HEIGHT);
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++) {
      const grain = ((Math.imul(i + 11, 2654435761) >>> 9) % 21) - 10;
      const isLight = y < 800 + ((x * 7) % 5) - (x < EDGE ? higher : 0);
      after.data.fill((isLight ? 170 : 70) + grain, 3 * i, 3 * i + 3);
      if (x < EDGE) what[i] = 1;
    }
  const box = { x: 0, y: 0, width: EDGE, height: HEIGHT };
  return seam(placeOf({ after }, what, box));
}

test('a short stark step on a long border is one: where what is lit ends higher behind it', () => {
  const [found, ...others] = signs(24);
  expect(others).toHaveLength(0);
  expect(found.box.x).toBeLessThanOrEqual(EDGE);
  expect(found.box.x + found.box.width).toBeGreaterThanOrEqual(EDGE);
  expect(found.box.y).toBeLessThan(780);
  expect(found.box.y + found.box.height).toBeGreaterThan(794);
  expect(found.box.height).toBeLessThan(60);
});

test('what goes on behind the border is none, however rough', () => {
  expect(signs(0)).toHaveLength(0);
  expect(signs(3)).toHaveLength(0);
});
