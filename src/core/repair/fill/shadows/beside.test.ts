import { createRaster, type Raster } from '../../../raster/raster.ts';
import { shadowOf } from './beside.ts';

const [WIDTH, HEIGHT] = [300, 200];
const isBlock = (x: number, y: number) => x >= 90 && x < 130 && y >= 60 && y < 150;

/** A wall above a table, whose light falls off to the sides; a block on it, and its shadow as far as `to`. */
function picture(to: number): Raster {
  const out = createRaster(WIDTH, HEIGHT, 3, 8);
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++) {
      const fall = 2 ** (-0.5 * ((x - 140) / 200) ** 2);
      const grain = ((i * 2654435761) >>> 9) % 11;
      const ground = y < 120 ? 150 : 80;
      const shade = isShade(x, y, to) ? 0.45 : 1;
      const value = isBlock(x, y) ? 200 : ground * fall * shade + grain;
      for (let c = 0; c < 3; c++) out.data[3 * i + c] = Math.round(value - 4 * c);
    }
  return out;
}
const isShade = (x: number, y: number, to: number) => x >= 130 && x < to && y >= 135 && y < 152;
const block = Uint8Array.from({ length: WIDTH * HEIGHT }, (_, i) =>
  isBlock(i % WIDTH, Math.floor(i / WIDTH)) ? 1 : 0,
);
const nothing = new Uint8Array(WIDTH * HEIGHT);

test('the shadow beside what stands there is found whole, and little of what is lit', () => {
  const shadow = shadowOf(picture(220), block, nothing)!;
  let [missed, lit] = [0, 0];
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++) {
      if (isShade(x, y, 220) && !shadow[i]) missed++;
      if (shadow[i] && !isShade(x, y, 220) && !isBlock(x, y)) lit++;
    }
  expect(missed).toBe(0);
  // A rim around it, and nothing far away.
  expect(lit).toBeLessThan(2 * 90 * 17);
  expect(shadow[30 * WIDTH + 200] + shadow[180 * WIDTH + 40] + shadow[140 * WIDTH + 290]).toBe(0);
});

test('one that leaves the picture, or ends where a gap begins, goes on there and is left', () => {
  expect(shadowOf(picture(WIDTH), block, nothing)).toBeNull();
  const gap = Uint8Array.from(nothing, (_, i) => (i % WIDTH >= 220 ? 1 : 0));
  expect(shadowOf(picture(220), block, gap)).toBeNull();
});

test('where nothing is barred, and on ground whose light only falls off, there is none', () => {
  expect(shadowOf(picture(220), nothing, nothing)).toBeNull();
  expect(shadowOf(picture(130), block, nothing)).toBeNull();
});

test('in a scene, whose ground is dark here and light there, nothing is taken for one', () => {
  const scene = picture(220);
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++)
      if (y < 120 && x % 60 < 25) for (let c = 0; c < 3; c++) scene.data[3 * i + c] = 60 + (i % 7);
  expect(shadowOf(scene, block, nothing)).toBeNull();
});
