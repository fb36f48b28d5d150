import { randomiser } from '../../../bench/planted.ts';
import { allocatePyramid, halveInto, levelsFor, levelSize, refreshPyramid, TILE_SIDE } from './pyramid.ts';
import {
  allocateSamples,
  boxAround,
  createRaster,
  crop,
  cropPlane,
  growWithin,
  intersect,
  isEmpty,
  paste,
  union,
  type Box,
  type Channels,
  type Depth,
} from './raster.ts';

const random = randomiser(12);
const whole = (most: number) => Math.floor(random() * most);
const box = (): Box => ({ x: whole(30) - 5, y: whole(30) - 5, width: whole(20), height: whole(20) });
const holds = (b: Box, x: number, y: number) => x >= b.x && y >= b.y && x < b.x + b.width && y < b.y + b.height;

function noisy(width: number, height: number, channels: Channels, depth: Depth) {
  const raster = createRaster(width, height, channels, depth);
  for (let i = 0; i < raster.data.length; i++) raster.data[i] = (i * 2654435761) >>> (depth === 16 ? 16 : 24);
  return raster;
}

describe('boxes', () => {
  test('the overlap holds what both hold, the union what either holds and no row or column more', () => {
    for (let n = 0; n < 200; n++) {
      const [a, b] = [box(), box()];
      const [both, either] = [intersect(a, b), union(a, b)];
      let wrong = 0;
      for (let y = -6; y < 46; y++)
        for (let x = -6; x < 46; x++) {
          const [inA, inB] = [holds(a, x, y), holds(b, x, y)];
          if (holds(both, x, y) !== (inA && inB)) wrong++;
          if ((inA || inB) && !holds(either, x, y)) wrong++;
        }
      expect(wrong).toBe(0);
      if (isEmpty(a) || isEmpty(b)) continue;
      expect(either.x).toBe(Math.min(a.x, b.x));
      expect(either.x + either.width).toBe(Math.max(a.x + a.width, b.x + b.width));
      expect(either.y + either.height).toBe(Math.max(a.y + a.height, b.y + b.height));
    }
  });

  test('an empty one counts for nothing', () => {
    const some = { x: 3, y: 4, width: 5, height: 6 };
    const none = { x: 100, y: 100, width: 0, height: 9 };
    expect(union(none, some)).toBe(some);
    expect(union(some, none)).toBe(some);
    expect(isEmpty(intersect(some, none))).toBe(true);
    expect(isEmpty(intersect(some, { x: 8, y: 4, width: 5, height: 6 }))).toBe(true);
  });

  test('grows to all sides but never beyond the picture', () => {
    expect(growWithin({ x: 10, y: 10, width: 5, height: 5 }, 4, 100, 100)).toEqual({
      x: 6,
      y: 6,
      width: 13,
      height: 13,
    });
    expect(growWithin({ x: 1, y: 92, width: 5, height: 5 }, 4, 100, 100)).toEqual({
      x: 0,
      y: 88,
      width: 10,
      height: 12,
    });
  });
});

describe('pieces of a picture', () => {
  test.each([
    [1, 8],
    [2, 16],
    [3, 8],
    [4, 16],
  ] as Array<[Channels, Depth]>)(
    'what is cut out and put back leaves it as it was: %i channels, %i bit',
    (channels, depth) => {
      const picture = noisy(23, 17, channels, depth);
      const before = picture.data.slice();
      const place = { x: 5, y: 3, width: 11, height: 9 };
      const part = crop(picture, place);
      expect(part).toMatchObject({ width: 11, height: 9, channels, depth });
      for (const [x, y] of [
        [0, 0],
        [10, 8],
        [4, 6],
      ])
        for (let c = 0; c < channels; c++)
          expect(part.data[(y * 11 + x) * channels + c]).toBe(before[((y + 3) * 23 + x + 5) * channels + c]);
      // It is a copy.
      part.data[0] ^= 1;
      expect(Buffer.from(picture.data.buffer).equals(Buffer.from(before.buffer))).toBe(true);
      part.data[0] ^= 1;
      paste(part, picture, place);
      expect(Buffer.from(picture.data.buffer).equals(Buffer.from(before.buffer))).toBe(true);
      part.data.fill(7);
      paste(part, picture, place);
      const changed = [...picture.data].filter((v, i) => v !== before[i]).length;
      expect(changed).toBeGreaterThan(0.9 * part.data.length);
      expect(changed).toBeLessThanOrEqual(part.data.length);
    },
  );

  test('a plane is cut like a picture', () => {
    const plane = Uint8Array.from({ length: 20 * 10 }, (_, i) => i);
    expect([...cropPlane(plane, 20, { x: 3, y: 2, width: 2, height: 3 })]).toEqual([43, 44, 63, 64, 83, 84]);
  });

  test('samples can lie in memory that threads share', () => {
    expect(allocateSamples(10, 16, true).buffer).toBeInstanceOf(SharedArrayBuffer);
    expect(allocateSamples(10, 16).byteLength).toBe(20);
    expect(allocateSamples(10, 8)).toBeInstanceOf(Uint8Array);
  });
});

describe('pyramid', () => {
  test('is halved until it fits a tile; sizes round up', () => {
    expect(levelsFor(TILE_SIDE, TILE_SIDE)).toBe(0);
    expect(levelsFor(TILE_SIDE + 1, 3)).toBe(1);
    expect(levelsFor(5000, 3000)).toBe(4);
    expect(levelSize(5001, 3, 1)).toEqual({ width: 2501, height: 2 });
    expect(levelSize(5001, 3, 4)).toEqual({ width: 313, height: 1 });
  });

  test.each([
    [8, 3],
    [16, 1],
  ] as Array<[Depth, Channels]>)(
    'a level is the mean of four, at odd sides of what there is: %i bit',
    (depth, channels) => {
      const from = noisy(7, 5, channels, depth);
      const to = createRaster(4, 3, channels, depth);
      halveInto(from, to, { x: 0, y: 0, width: 7, height: 5 });
      for (let y = 0; y < 3; y++)
        for (let x = 0; x < 4; x++)
          for (let c = 0; c < channels; c++) {
            const at = (u: number, v: number) => from.data[(Math.min(4, v) * 7 + Math.min(6, u)) * channels + c];
            const sum = at(2 * x, 2 * y) + at(2 * x + 1, 2 * y) + at(2 * x, 2 * y + 1) + at(2 * x + 1, 2 * y + 1);
            expect(Math.abs(to.data[(y * 4 + x) * channels + c] - sum / 4)).toBeLessThanOrEqual(0.5);
          }
    },
  );

  test('brought up to date in a box it equals one that is made anew', () => {
    const picture = noisy(1301, 903, 3, 8);
    const levels = allocatePyramid(picture);
    const all = { x: 0, y: 0, width: picture.width, height: picture.height };
    refreshPyramid(picture, levels, all);
    expect(levels.map((l) => [l.width, l.height])).toEqual([
      [651, 452],
      [326, 226],
    ]);
    for (const place of [
      { x: 0, y: 0, width: 1, height: 1 },
      { x: 333, y: 127, width: 90, height: 41 },
      { x: 1300, y: 902, width: 1, height: 1 },
    ]) {
      const part = noisy(place.width, place.height, 3, 8);
      part.data.forEach((v, i) => (part.data[i] = 255 - v));
      paste(part, picture, place);
      refreshPyramid(picture, levels, place);
    }
    const fresh = allocatePyramid(picture);
    refreshPyramid(picture, fresh, all);
    levels.forEach((level, n) => expect(Buffer.compare(Buffer.from(level.data), Buffer.from(fresh[n].data))).toBe(0));
  });
});

describe('a box around a place', () => {
  const picture = { width: 100, height: 60 };
  const size = { width: 20, height: 10 };
  test.each([
    [[50, 30], { x: 40, y: 25, width: 20, height: 10 }],
    [[3, 2], { x: 0, y: 0, width: 20, height: 10 }],
    [[99, 59], { x: 80, y: 50, width: 20, height: 10 }],
    [[-500, 900], { x: 0, y: 50, width: 20, height: 10 }],
  ] as const)('at %j lies on the picture', (place, box) => {
    expect(boxAround(place, size, picture)).toEqual(box);
  });

  test('is cut where it is larger than the picture, and has whole px', () => {
    expect(boxAround([50, 30], { width: 300, height: 12.6 }, picture)).toEqual({ x: 0, y: 24, width: 100, height: 13 });
    const { x, y, width, height } = boxAround([33.3, 22.7], { width: 14.4, height: 9.7 }, picture);
    for (const v of [x, y, width, height]) expect(Number.isInteger(v)).toBe(true);
    expect(Math.abs(x + width / 2 - 33.3)).toBeLessThanOrEqual(0.5);
    expect(Math.abs(y + height / 2 - 22.7)).toBeLessThanOrEqual(0.5);
  });
});
