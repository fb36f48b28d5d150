import { createRaster } from '../../../raster/raster.ts';
import { shadeWithin } from './within.ts';

const [WIDTH, HEIGHT] = [320, 200];
/** What a soft shadow leaves, on a wall above a darker floor. */
const leaves = (x: number, y: number) =>
  1 - 0.5 * Math.exp(-(((x - 120) / 40) ** 2) - ((y - 120) / 20) ** 2) * (x > 60 ? 1 : 0);
const picture = createRaster(WIDTH, HEIGHT, 3, 8);
for (let y = 0, i = 0; y < HEIGHT; y++)
  for (let x = 0; x < WIDTH; x++, i++) {
    const grain = 0.97 + ((Math.imul(i + 3, 2654435761) >>> 9) % 61) / 1000;
    picture.data.fill(Math.round((y < 130 ? 180 : 120) * leaves(x, y) * grain), 3 * i, 3 * i + 3);
  }
const usable = new Uint8Array(WIDTH * HEIGHT).fill(1);
const shadow = usable.map((_, i) => (leaves(i % WIDTH, Math.floor(i / WIDTH)) < 0.97 ? 1 : 0));

test('in a shadow it is what that leaves of the light, on either ground; outside it is 1', () => {
  const shade = shadeWithin(picture, null, usable, shadow);
  let [sum, n] = [0, 0];
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      if (!shadow[y * WIDTH + x]) expect(shade(x, y)).toBe(1);
      else {
        sum += Math.abs(shade(x, y) - leaves(x, y));
        n++;
      }
    }
  expect(sum / n).toBeLessThan(0.02);
  expect(shade(120, 120)).toBeLessThan(0.56);
});

test('nothing is lifted where nothing is in shadow', () => {
  const shade = shadeWithin(picture, null, usable, new Uint8Array(WIDTH * HEIGHT));
  expect([shade(120, 120), shade(0, 0), shade(WIDTH - 1, HEIGHT - 1)]).toEqual([1, 1, 1]);
});
