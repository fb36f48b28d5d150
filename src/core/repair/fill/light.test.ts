import { createRaster, type Raster } from '../../raster/raster.ts';
import { inLight, lightOf, withoutLight } from './light.ts';

const WIDTH = 320;
const HEIGHT = 200;
/** By how many stops light falls off at a place. */
const fall = (x: number, y: number) => -1.1 * (((x - 170) / 190) ** 2 + ((y - 90) / 190) ** 2) + 0.2 * (x / WIDTH);

/** An even ground of 150 levels in such light, with grain. */
function backdrop(depth: 8 | 16 = 8): Raster {
  const out = createRaster(WIDTH, HEIGHT, 3, depth);
  const unit = depth === 16 ? 257 : 1;
  let seed = 5;
  for (let y = 0, o = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, o += 3) {
      seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff;
      const v = 150 * 2 ** fall(x, y) + ((seed >> 12) % 100) / 25 - 2;
      for (let c = 0; c < 3; c++) out.data[o + c] = Math.round(v * (1 + 0.04 * c) * unit);
    }
  return out;
}
/** What is known: all but a quarter at the left. */
const known = Uint8Array.from({ length: WIDTH * HEIGHT }, (_, i) => (i % WIDTH < WIDTH / 4 ? 0 : 1));
const near = (got: number, wanted: number, by: number) => expect(Math.abs(got - wanted)).toBeLessThan(by);

test.each([8, 16] as const)('fall-off is found and carried on where nothing is known, in %i bit', (depth) => {
  const light = lightOf(backdrop(depth), known)!;
  for (const [x, y] of [
    [5, 5],
    [20, 100],
    [60, 190],
    [300, 20],
  ])
    for (const c of [0, 2])
      near(Math.log2(light.gain(x, y, c) / light.gain(170, 90, c)), fall(x, y) - fall(170, 90), 0.06);
  near(light.stops, 1.1 * ((110 / 190) ** 2 + (90 / 190) ** 2), 0.35);
});

test('without it the ground is even, and back in it every level is the same', () => {
  const picture = backdrop();
  const light = lightOf(picture, known)!;
  const even = withoutLight(picture, light);
  expect(even.depth).toBe(16);
  const meanOf = (x0: number, y0: number) => {
    let sum = 0;
    for (let y = y0; y < y0 + 20; y++) for (let x = x0; x < x0 + 20; x++) sum += even.data[3 * (y * WIDTH + x)];
    return sum / 400 / 257;
  };
  near(meanOf(295, 5), meanOf(160, 80), 1.5);
  near(meanOf(90, 175), meanOf(160, 80), 1.5);
  for (let i = 0; i < WIDTH * HEIGHT; i += 37)
    expect(inLight(even.data[3 * i], light.gain(i % WIDTH, Math.floor(i / WIDTH), 0), 8)).toBe(picture.data[3 * i]);
});

test('a thing before the ground does not count', () => {
  const picture = backdrop();
  for (let y = 40; y < 160; y++)
    for (let x = 120; x < 200; x++) picture.data.fill(30, 3 * (y * WIDTH + x), 3 * (y * WIDTH + x) + 3);
  const light = lightOf(picture, known)!;
  near(Math.log2(light.gain(10, 100, 0) / light.gain(300, 100, 0)), fall(10, 100) - fall(300, 100), 0.08);
});

test('beside a picture with two grounds, light is carried on as it falls off at each height', () => {
  const picture = backdrop();
  // A dark table before the backdrop: by the backdrop's light alone it would be a deep fall-off downwards.
  for (let o = 3 * WIDTH * 150; o < picture.data.length; o++) picture.data[o] = Math.round(picture.data[o] * 0.4);
  const light = lightOf(picture, known, true)!;
  for (const y of [20, 100, 180])
    near(Math.log2(light.gain(5, y, 1) / light.gain(170, y, 1)), fall(5, y) - fall(170, y), 0.08);
  // What lies beneath is no darker by light: as high up as at the middle, within what rows can tell.
  near(Math.log2(light.gain(170, 190, 1) / light.gain(170, 100, 1)), 0, 0.1);
  // One ground alone is taken as a whole, as anywhere.
  const even = [lightOf(backdrop(), known, true)!, lightOf(backdrop(), known)!];
  near(even[0].gain(10, 180, 0), even[1].gain(10, 180, 0), 1e-9);
});

test('what would fall off in another colour, or by more than light does, is no light', () => {
  const picture = backdrop();
  const falling = (stops: (x: number, c: number) => number) => {
    const data = picture.data.map((v, o) => Math.round(v * 2 ** -stops((Math.floor(o / 3) % WIDTH) / WIDTH, o % 3)));
    return lightOf({ ...picture, data }, known);
  };
  expect(falling((x) => 1.2 * x)).not.toBeNull();
  expect(falling((x, c) => 2.4 * x * (c === 0 ? 1 : 0))).toBeNull();
  expect(falling((x) => 5 * x)).toBeNull();
});

test('even light, and what is no even ground, have none', () => {
  const flat = backdrop();
  flat.data = flat.data.map((_, o) => 120 + (o % 7));
  expect(lightOf(flat, known)).toBeNull();
  const checked = backdrop();
  checked.data = checked.data.map((_, o) => {
    const i = Math.floor(o / 3);
    return (Math.floor((i % WIDTH) / 40) + Math.floor(i / WIDTH / 40)) % 2 ? 200 : 50;
  });
  expect(lightOf(checked, known)).toBeNull();
  expect(
    lightOf(
      backdrop(),
      known.map(() => 0),
    ),
  ).toBeNull();
});
