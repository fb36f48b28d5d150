import type { Sampled } from '../../raster/affine.ts';
import { createRaster, fullScale, type Channels, type Depth, type Raster } from '../../raster/raster.ts';
import { adaptTone, rimWords } from './membrane.ts';

const [W, H] = [60, 50];
const inside = (x: number, y: number) => x >= 20 && x < 40 && y >= 15 && y < 35;
const COVER = Uint8Array.from({ length: W * H }, (_, i) => (inside(i % W, Math.floor(i / W)) ? 1 : 0));

/** A picture of a tone from 0 to 255 at each place. */
function toned(f: (x: number, y: number) => number, channels: Channels, depth: Depth): Raster {
  const picture = createRaster(W, H, channels, depth);
  const unit = fullScale(depth) / 255;
  for (let i = 0; i < W * H; i++)
    for (let c = 0; c < channels; c++)
      picture.data[i * channels + c] = Math.round(f(i % W, Math.floor(i / W)) * unit) + (c % 3);
  return picture;
}

/** A donor of a tone at each place, as it lies over the picture. */
function donorOf(f: (x: number, y: number) => number, picture: Raster): Sampled {
  const colours = picture.channels >= 3 ? 3 : 1;
  const unit = fullScale(picture.depth) / 255;
  const values = new Float32Array(W * H * colours);
  for (let i = 0; i < W * H; i++) values.fill(f(i % W, Math.floor(i / W)) * unit, i * colours, (i + 1) * colours);
  return { colours, values, valid: new Uint8Array(W * H).fill(1) };
}

/** The largest distance, in levels of 255, of the covered samples from what they should be. */
function worst(sampled: Sampled, picture: Raster, want: (x: number, y: number) => number): number {
  const unit = fullScale(picture.depth) / 255;
  let most = 0;
  COVER.forEach((v, i) => {
    if (!v) return;
    for (let c = 0; c < sampled.colours; c++) {
      const is = (sampled.values[i * sampled.colours + c] - (c % 3)) / unit;
      most = Math.max(most, Math.abs(is - want(i % W, Math.floor(i / W))));
    }
  });
  return most;
}

const grain = (x: number, y: number) => (((x * 31 + y * 17) * 2654435761) >>> 24) / 16;

describe('giving a donor the tone of its surroundings', () => {
  test.each([
    [1, 8],
    [3, 8],
    [1, 16],
    [3, 16],
  ] as const)('with %i channels at %i bit an even difference is taken up wholly', (channels, depth) => {
    const picture = toned((x, y) => 90 + grain(x, y), channels, depth);
    const sampled = donorOf((x, y) => 160 + grain(x, y), picture);
    const rim = adaptTone(picture, sampled, COVER);
    expect(rim).toEqual({ count: 80, left: 0, crossed: false });
    expect(worst(sampled, picture, (x, y) => 90 + grain(x, y))).toBeLessThan(1);
  });

  test('a slope of light is carried through, the donor’s texture kept', () => {
    const light = (x: number, y: number) => 60 + 0.8 * x + 0.5 * y;
    const picture = toned((x, y) => light(x, y) + grain(x, y), 3, 8);
    const sampled = donorOf((x, y) => 130 + grain(x, y), picture);
    adaptTone(picture, sampled, COVER);
    expect(worst(sampled, picture, (x, y) => light(x, y) + grain(x, y))).toBeLessThan(2);
  });

  test('outside the cover nothing changes, and where the donor has no pixels neither', () => {
    const picture = toned(() => 90, 3, 8);
    const sampled = donorOf(() => 160, picture);
    const hole = 25 * W + 30;
    sampled.valid[hole] = 0;
    const before = sampled.values.slice();
    adaptTone(picture, sampled, COVER);
    const changed = [...COVER.keys()].filter((i) => sampled.values[i * 3] !== before[i * 3]);
    expect(changed.every((i) => COVER[i] === 1)).toBe(true);
    expect(changed).toHaveLength(20 * 20 - 1);
    expect(sampled.values[hole * 3]).toBe(before[hole * 3]);
  });

  test('the far side of an edge that the rim touches is not smeared in, and it says so', () => {
    // Above the cover a dark roof: the donor is sky all over.
    const picture = toned((x, y) => (y < 15 ? 40 : 170), 3, 8);
    const sampled = donorOf(() => 150, picture);
    const rim = adaptTone(picture, sampled, COVER);
    expect(rim.crossed).toBe(false);
    expect(rim.left).toBeGreaterThan(15);
    expect(worst(sampled, picture, () => 170)).toBeLessThan(3);
    expect(rimWords(rim)).toMatch(/^\d+ % of the rim lies beyond a strong edge/);
  });

  test('a cover across an edge keeps both sides, and the reason proposes to copy', () => {
    const picture = toned((x) => (x < 30 ? 40 : 200), 3, 8);
    const sampled = donorOf(() => 120, picture);
    const rim = adaptTone(picture, sampled, COVER);
    expect(rim).toMatchObject({ crossed: true, left: 0 });
    expect(rimWords(rim)).toMatch(/both sides of a strong edge: copy/);
    expect(sampled.values[(25 * W + 21) * 3]).toBeLessThan(100);
    expect(sampled.values[(25 * W + 38) * 3]).toBeGreaterThan(140);
  });

  test('a plain rim needs no words, and a cover without a rim changes nothing', () => {
    expect(rimWords({ count: 80, left: 0, crossed: false })).toBe('');
    const picture = toned(() => 90, 3, 8);
    const sampled = donorOf(() => 160, picture);
    const rim = adaptTone(picture, sampled, new Uint8Array(W * H).fill(1));
    expect(rim.count).toBe(0);
    expect(sampled.values.every((v) => v === 160)).toBe(true);
  });
});
