import { createRaster, type Box, type Raster } from '../../../raster/raster.ts';
import { beneathOf } from '../../../chain/chain.ts';
import { dated, renderRepair } from '../../registry.ts';
import { fillOfAdded } from '../added.ts';
import { lightOf } from '../light.ts';
import { shadowsOut } from './out.ts';

const [WIDTH, HEIGHT] = [480, 320];
type Leaves = (x: number, y: number) => number;
const ramp = (v: number) => Math.min(1, Math.max(0, v));
/** What is left between two lines, each from a height at the left and falling by so much a px; a rim of 6 px. */
const between =
  (from: [at: number, falls: number], to: [at: number, falls: number], leaves = 0.6): Leaves =>
  (x, y) =>
    1 - (1 - leaves) * ramp((y - from[0] - from[1] * x) / 6 + 0.5) * ramp((to[0] + to[1] * x - y) / 6 + 0.5);

/** A wall above a floor whose light falls off to the sides, with grain, and what a shadow leaves of it. */
function picture(leaves: Leaves, colour: readonly [number, number, number] = [1, 1, 1]): Raster {
  const out = createRaster(WIDTH, HEIGHT, 3, 8);
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++) {
      const fall = 2 ** (-0.6 * ((x - 200) / 300) ** 2);
      const grain = 0.97 + ((Math.imul(i + 7, 2654435761) >>> 9) % 61) / 1000;
      const left = leaves(x, y);
      for (let c = 0; c < 3; c++)
        out.data[3 * i + c] = Math.round((y < 210 ? 170 : 140) * fall * grain * (left < 1 ? left ** colour[c] : 1));
    }
  return out;
}
const outside = (box: Box) =>
  Uint8Array.from({ length: WIDTH * HEIGHT }, (_, i) => {
    const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)];
    return x >= box.x && x < box.x + box.width && y >= box.y && y < box.y + box.height ? 0 : 1;
  });
const RIGHT = { x: 360, y: 0, width: 120, height: HEIGHT };
const LEFT = { x: 0, y: 0, width: 110, height: HEIGHT };
const BELOW = { x: 0, y: 260, width: WIDTH, height: 60 };

/** Most by which what is left in a gap is another than it truly is, and the share of it that is off by more than 0.05. */
function off(leaves: Leaves, gap: Box): { most: number; share: number; count: number } {
  const seen = outside(gap);
  const lit = picture(leaves);
  const found = shadowsOut(lit, lightOf(lit, seen, gap.height === HEIGHT), seen, gap)!;
  let [most, bad] = [0, 0];
  for (let y = gap.y; y < gap.y + gap.height; y++)
    for (let x = gap.x; x < gap.x + gap.width; x++) {
      const d = Math.abs(found.shade(x, y, 1) - leaves(x, y));
      most = Math.max(most, d);
      if (d > 0.05) bad++;
    }
  return { most, share: bad / gap.width / gap.height, count: found.count };
}

test.each([
  ['falling to the right', between([90, 0.3], [130, 0.35]), RIGHT],
  ['becoming wide to the left', between([40, 0.3], [100, 0.22]), LEFT],
  ['steep, beneath', between([-500, 3], [-300, 2.6]), BELOW],
  ['past the lower corner', between([470, -0.6], [9999, 0]), RIGHT],
])('a shadow that leaves the picture goes on, as deep and as soft: %s', (_, leaves, gap) => {
  const { most, share, count } = off(leaves, gap);
  expect(count).toBe(1);
  expect(share).toBeLessThan(0.02);
  // A rim may lie a px aside.
  expect(most).toBeLessThan(0.15);
});

test('two of them are told apart, and no donor is taken from either', () => {
  const [one, other] = [between([60, -0.1], [90, -0.08]), between([160, 0.2], [200, 0.2], 0.5)];
  // Cast by something in the middle.
  const both: Leaves = (x, y) => (x < 140 ? 1 : one(x, y) * other(x, y));
  const { count, share } = off(both, RIGHT);
  expect(count).toBe(2);
  // Two rims each, of which some lie half a px aside.
  expect(share).toBeLessThan(0.04);
  const seen = outside(RIGHT);
  const lit = picture(both);
  const { barred } = shadowsOut(lit, lightOf(lit, seen, true), seen, RIGHT)!;
  let [missed, free, wide] = [0, 0, 0];
  for (let i = 0; i < barred.length; i++) {
    if (!seen[i]) continue;
    const left = both(i % WIDTH, Math.floor(i / WIDTH));
    if (left < 0.9 && !barred[i]) missed++;
    if (left === 1) free++;
    if (left === 1 && barred[i]) wide++;
  }
  expect(missed).toBe(0);
  expect(wide / free).toBeLessThan(0.12);
});

test('what is no shadow that leaves the picture is left alone', () => {
  const gone = (lit: Raster) => {
    const seen = outside(RIGHT);
    return shadowsOut(lit, lightOf(lit, seen, true), seen, RIGHT);
  };
  const band = between([90, 0.3], [130, 0.35]);
  // Nothing at all; one that ends before; a thing of another colour; one that is no straight band; a black bar.
  expect(gone(picture(() => 1))).toBeNull();
  expect(gone(picture((x, y) => (x < 330 ? band(x, y) : 1)))).toBeNull();
  expect(gone(picture(band, [0.2, 1, 2]))).toBeNull();
  expect(gone(picture((x, y) => band(x, y + 14 * Math.sin(x / 6))))).toBeNull();
  expect(gone(picture(between([90, 0.3], [130, 0.35], 0.1)))).toBeNull();
});

test('the ground beneath a leaning border is none, though rows above it are light for the most part', () => {
  const seen = outside(RIGHT);
  for (const slope of [0.04, 0.07, 0.1, 0.25]) {
    const shore = (x: number) => HEIGHT / 2 + slope * (RIGHT.x - x);
    const lit = picture((x, y) => (y < shore(x) ? 1 : 0.47));
    expect(shadowsOut(lit, lightOf(lit, seen, true), seen, RIGHT)).toBeNull();
    expect(shadowsOut(lit, null, seen, RIGHT)).toBeNull();
  }
});

test('dark patches all over are no shadows, nor is any told where nothing is known beside the cover', () => {
  const seen = outside(RIGHT);
  const patches = picture((x, y) => ((Math.floor(x / 30) + Math.floor(y / 30)) % 2 ? 0.6 : 1));
  expect(shadowsOut(patches, null, seen, RIGHT)).toBeNull();
  const lit = picture(between([90, 0.3], [130, 0.35]));
  expect(
    shadowsOut(
      lit,
      null,
      seen.map(() => 0),
      RIGHT,
    ),
  ).toBeNull();
  // Between two known sides it is no extension of either.
  const middle = { x: 200, y: 0, width: 60, height: HEIGHT };
  expect(shadowsOut(lit, null, outside(middle), middle)).toBeNull();
});

test('a fill carries it on', () => {
  const leaves = between([90, 0.3], [130, 0.35]);
  const truth = picture(leaves);
  const source: Raster = { ...truth, data: truth.data.slice() };
  const seen = outside(RIGHT);
  for (let i = 0; i < seen.length; i++) if (!seen[i]) source.data.fill(255, 3 * i, 3 * i + 3);
  const spec = dated(fillOfAdded([RIGHT]));
  const { patch, reason } = renderRepair(beneathOf(source, [], spec), spec);
  expect(reason).toContain('A shadow leaves the picture there: carried on in its direction.');
  let [sum, n] = [0, 0];
  for (let y = 4; y < HEIGHT; y += 8)
    for (let x = RIGHT.x + 4; x < WIDTH; x += 8) {
      // Means of 8 × 8 px, since grain is another.
      let [is, was] = [0, 0];
      for (let v = y - 4; v < y + 4; v++)
        for (let u = x - 4; u < x + 4; u++) {
          is += patch.data[((v - patch.y) * patch.width + u - patch.x) * patch.channels + 1] / 64;
          was += truth.data[(v * WIDTH + u) * 3 + 1] / 64;
        }
      sum += Math.abs(is - was);
      n++;
    }
  expect(sum / n).toBeLessThan(3);
});
