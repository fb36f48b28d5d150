import { createRaster } from '../../raster/raster.ts';
import type { Point } from '../../mask/shapes.ts';
import { channelPlane, lumaPlane } from '../../raster/luma.ts';
import { channelReader, lumaReader, planeReader, straighten } from './straightened-band.ts';

const [W, H] = [24, 18];
const picture = createRaster(W, H, 3, 8);
picture.data.forEach((_, i) => (picture.data[i] = (i * 2654435761) >>> 24));

describe('reading any place', () => {
  test('pixel centres give the pixels, of luma and of each channel', () => {
    const luma = lumaReader(picture);
    const channels = ([0, 1, 2] as const).map((c) => channelReader(picture, c));
    const plane = lumaPlane(picture);
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++) {
        expect(luma(x + 0.5, y + 0.5)).toBeCloseTo(plane[y * W + x], 4);
        channels.forEach((read, c) => expect(read(x + 0.5, y + 0.5)).toBe(picture.data[(y * W + x) * 3 + c]));
      }
  });

  test('between centres it is bilinear: exact for a slope, the mean of four in the middle of four', () => {
    const slope = createRaster(W, H, 1, 8);
    for (let y = 0; y < H; y++) for (let x = 0; x < W; x++) slope.data[y * W + x] = 3 * x + 5 * y;
    const read = lumaReader(slope);
    for (const [x, y] of [
      [3.7, 4.2],
      [10.01, 12.9],
      [6, 6],
    ])
      expect(read(x, y)).toBeCloseTo(3 * (x - 0.5) + 5 * (y - 0.5), 6);
    const red = channelReader(picture, 0);
    const four = [0, 3, W * 3, W * 3 + 3].map((i) => picture.data[i]);
    expect(red(1, 1)).toBeCloseTo(four.reduce((a, b) => a + b) / 4, 6);
  });

  test('beyond the edge it repeats', () => {
    const red = channelReader(picture, 0);
    expect(red(-7, 3.5)).toBe(red(0.5, 3.5));
    expect(red(W + 9, H + 9)).toBe(red(W - 0.5, H - 0.5));
  });

  test('a plane is read as the raster is, at 8 and 16 bit', () => {
    const deep = createRaster(
      W,
      H,
      3,
      16,
      Uint16Array.from(picture.data, (v) => v * 257),
    );
    for (const raster of [picture, deep]) {
      const slow = channelReader(raster, 2);
      const fast = planeReader(W, H, channelPlane(raster, 2));
      for (let n = 0; n < 200; n++) {
        const [x, y] = [1 + ((n * 37) % 211) / 10, 1 + ((n * 53) % 157) / 10];
        expect(fast(x, y)).toBeCloseTo(slow(x, y), 3);
      }
    }
    expect(channelReader(deep, 1)(5.5, 5.5)).toBeCloseTo(channelReader(picture, 1)(5.5, 5.5), 6);
  });

  test('grey with alpha is its grey', () => {
    const grey = createRaster(2, 1, 2, 8, Uint8Array.from([10, 255, 90, 0]));
    expect([lumaReader(grey)(0.5, 0.5), lumaReader(grey)(1.5, 0.5)]).toEqual([10, 90]);
  });
});

describe('laying a band straight', () => {
  const read = (x: number, y: number) => 2 * x + 7 * y;
  const [a, b]: [Point, Point] = [
    [4, 3],
    [64, 83],
  ];

  test.each([1, 2])('its middle runs from end to end, and places give back what was read, at scale %i', (scale) => {
    const strip = straighten(read, a, b, 6, scale);
    expect(strip.width).toBe(13);
    expect(strip.place(0, 0)).toEqual([expect.closeTo(4, 6), expect.closeTo(3, 6)]);
    expect(strip.place(strip.length - 1, 0)).toEqual([expect.closeTo(64, 6), expect.closeTo(83, 6)]);
    expect(strip.step * (strip.length - 1)).toBeCloseTo(100, 6);
    expect(strip.length).toBe(Math.ceil(100 / scale) + 1);
    // The mean over three rows of a slope is the slope.
    for (const row of [1, 17, strip.length - 2])
      for (const k of [0, 5, 12]) {
        const [x, y] = strip.place(row, k - 6);
        expect(strip.luma[row * strip.width + k]).toBeCloseTo(read(x, y), 2);
      }
  });

  test('columns lie across, as far apart as the scale says', () => {
    for (const scale of [1, 2]) {
      const strip = straighten(read, a, b, 6, scale);
      const [p, q] = [strip.place(10, -3), strip.place(10, 4)];
      expect(Math.hypot(q[0] - p[0], q[1] - p[1])).toBeCloseTo(7 * scale, 6);
      expect((q[0] - p[0]) * (b[0] - a[0]) + (q[1] - p[1]) * (b[1] - a[1])).toBeCloseTo(0, 6);
    }
  });
});
