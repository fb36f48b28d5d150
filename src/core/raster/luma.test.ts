import { createRaster } from './raster.ts';
import {
  boxMean,
  doublePlane,
  halfPlane,
  levelQuantiles,
  lumaPlane,
  medianOf,
  noiseLevel,
  quantile,
  type Plane,
} from './luma.ts';
import { groupsOf, isPrint, paperOf, smallPicture } from '../find/finders/blobs.ts';

let state = 3;
const random = () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 4294967296;
const gauss = () => Math.sqrt(-2 * Math.log(random() + 1e-12)) * Math.cos(2 * Math.PI * random());
const plane = (width: number, height: number, at: (x: number, y: number) => number): Plane => ({
  width,
  height,
  data: Float32Array.from({ length: width * height }, (_, i) => at(i % width, Math.floor(i / width))),
});

describe('planes of luma', () => {
  test('luma is weighted after Rec. 709 at 8 and 16 bit; grey is taken as it is, alpha never counts', () => {
    const rgb = createRaster(1, 1, 4, 8, Uint8Array.from([200, 100, 50, 7]));
    expect(lumaPlane(rgb)[0]).toBeCloseTo(0.2126 * 200 + 0.7152 * 100 + 0.0722 * 50, 3);
    const deep = createRaster(1, 1, 3, 16, Uint16Array.from([200 * 257, 100 * 257, 50 * 257]));
    expect(lumaPlane(deep)[0]).toBeCloseTo(lumaPlane(rgb)[0], 3);
    expect(lumaPlane(createRaster(1, 1, 2, 8, Uint8Array.from([90, 3])))[0]).toBe(90);
  });

  test.each([0, 1, 4, 30])('the running mean over radius %i agrees with plain sums, also at the edges', (radius) => {
    const p = plane(23, 17, () => 255 * random());
    const fast = boxMean(p, radius).data;
    for (const [x, y] of [
      [0, 0],
      [22, 16],
      [11, 8],
      [3, 15],
    ]) {
      let sum = 0;
      let n = 0;
      for (let v = Math.max(0, y - radius); v <= Math.min(16, y + radius); v++)
        for (let u = Math.max(0, x - radius); u <= Math.min(22, x + radius); u++, n++) sum += p.data[v * 23 + u];
      expect(fast[y * 23 + x]).toBeCloseTo(sum / n, 3);
    }
  });

  test('halving keeps the mean, and odd sizes round up', () => {
    const p = plane(8, 6, (x, y) => x * 3 + y * 7);
    const half = halfPlane(p);
    const mean = (q: Plane) => q.data.reduce((a, b) => a + b, 0) / q.data.length;
    expect([half.width, half.height]).toEqual([4, 3]);
    expect(mean(half)).toBeCloseTo(mean(p), 4);
    const odd = halfPlane(plane(5, 3, (x, y) => x + 10 * y));
    expect([odd.width, odd.height, odd.data[odd.data.length - 1]]).toEqual([3, 2, 24]);
  });

  test('doubling is linear between px, keeps the mean, and halved again gives the same but at edges', () => {
    const twice = doublePlane(plane(8, 6, (x, y) => x * 3 + y * 7));
    expect([twice.width, twice.height]).toEqual([16, 12]);
    // Half a px apart: a quarter px to either side of where a px was.
    expect(twice.data[5 * 16 + 6] - twice.data[5 * 16 + 5]).toBeCloseTo(1.5, 4);
    expect(twice.data[6 * 16 + 5] - twice.data[5 * 16 + 5]).toBeCloseTo(3.5, 4);
    const again = halfPlane(twice);
    for (let y = 1; y < 5; y++) for (let x = 1; x < 7; x++) expect(again.data[y * 8 + x]).toBeCloseTo(x * 3 + y * 7, 4);
  });

  test('quantiles by histogram agree with those by sorting to a quarter of a level', () => {
    const values = Float32Array.from({ length: 500 }, () => 255 * random() ** 2);
    for (const share of [0.05, 0.5, 0.95, 0.995]) {
      expect(Math.abs(levelQuantiles(values, [share])[0] - quantile(values, share))).toBeLessThanOrEqual(0.25);
    }
    expect(quantile([], 0.5)).toBe(0);
  });

  test('the median found by parting is the one that sorting gives, for any number of values and many alike', () => {
    for (let n = 1; n < 120; n++) {
      const values = Float32Array.from({ length: n }, () => Math.floor((1 + (n % 9)) * random()));
      const sorted = quantile(values, 0.5);
      expect(medianOf(Float32Array.from([...values, -9, 900]), n)).toBe(sorted);
    }
  });

  test.each([1, 3, 8])('noise of σ %i is measured within a tenth, with and without an edge in the picture', (sigma) => {
    const level = (step: number) =>
      noiseLevel(plane(300, 200, (x) => 100 + (x > 150 ? step : 0) + 0.05 * x + sigma * gauss()));
    expect(Math.abs(level(0) - sigma)).toBeLessThan(0.1 * sigma);
    expect(Math.abs(level(90) - sigma)).toBeLessThan(0.12 * sigma);
  });
});

describe('the picture from afar', () => {
  test('groups are counted by their own pixels, diagonal neighbours together, largest first', () => {
    const rows = ['##...#', '.#....', '......', '...##.', '..####'];
    const groups = groupsOf(
      Uint8Array.from(rows.join(''), (c) => (c === '#' ? 1 : 0)),
      6,
      5,
    );
    expect(groups.map((g) => g.area)).toEqual([6, 3, 1]);
    expect(groups[0].box).toEqual({ x: 2, y: 3, width: 4, height: 2 });
  });

  test('a print is told by its rim of paper or its one tint; a colour photograph is none', () => {
    const picture = (at: (x: number, y: number) => [number, number, number]) => {
      const raster = createRaster(300, 200, 3, 8);
      for (let i = 0; i < 60_000; i++) raster.data.set(at(i % 300, Math.floor(i / 300)), i * 3);
      return smallPicture(raster, 200);
    };
    const inside = (x: number, y: number) => x > 12 && y > 12 && x < 288 && y < 188;
    const bordered = picture((x, y) => (inside(x, y) ? [40 + x / 2, 200 - y, 60] : [240, 238, 230]));
    expect(paperOf(bordered).share).toBeGreaterThan(0.9);
    expect(isPrint(bordered)).toBe(true);
    expect(isPrint(picture((x) => [60 + x / 2, 55 + x / 2, 45 + x / 2]))).toBe(true);
    const colour = picture((x, y) => [x * 0.8, 255 - y, (x + y) / 2]);
    expect(paperOf(colour).share).toBeLessThan(0.5);
    expect(isPrint(colour)).toBe(false);
  });

  test('sizes and the lightness of grey agree with the picture', () => {
    const raster = createRaster(1000, 500, 1, 16);
    raster.data.fill(119 * 257);
    const small = smallPicture(raster, 100);
    expect([small.width, small.height, small.scale]).toEqual([100, 50, 10]);
    expect(small.L[1234]).toBeCloseTo(50.03, 1);
  });
});
