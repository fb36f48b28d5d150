import type { Point } from '../../mask/shapes.ts';
import { createRaster, type Raster } from '../../raster/raster.ts';
import { thinLines } from './thin-lines.ts';
import { lumaPlane } from '../../raster/luma.ts';
import { periodicityOf } from './periodicity.ts';

const WIDTH = 520;
const HEIGHT = 420;

/** Uneven ground with level lines 3 px wide at some heights; the same for a seed. */
function ruled(heights: number[], { tone = 175, gap = [0, 0] as [number, number] } = {}): Raster {
  const picture = createRaster(WIDTH, HEIGHT, 3, 8);
  let state = 7;
  const noise = () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 4294967296 - 0.5;
  };
  for (let y = 0; y < HEIGHT; y++) {
    for (let x = 0; x < WIDTH; x++) {
      const on = x >= 60 && x < 460 && !(x >= gap[0] && x < gap[1]) && heights.some((h) => Math.abs(y - h) <= 1);
      const v = (on ? tone : 110) + 14 * noise();
      for (let c = 0; c < 3; c++) picture.data[(y * WIDTH + x) * 3 + c] = v;
    }
  }
  return picture;
}

const planeOf = (picture: Raster) => ({ width: WIDTH, height: HEIGHT, data: lumaPlane(picture) });
const level = (y: number, from = 62, to = 458): Point[] =>
  Array.from({ length: to - from }, (_, i): Point => [from + i + 0.5, y + 0.5]);
const repeat = (heights: number[], at: number) => periodicityOf(planeOf(ruled(heights)), level(at), 3, true);
const found = (picture: Raster) => thinLines.find({ picture, luma: lumaPlane(picture) }).filter((f) => f.score >= 0.5);

describe('lines that repeat', () => {
  test('courses in even steps repeat, in the midst of them and at their border', () => {
    for (const step of [9, 21, 40]) {
      const courses = [-2, -1, 0, 1, 2].map((k) => 200 + k * step);
      expect(repeat(courses, 200)).toBeGreaterThan(0.85);
      expect(repeat(courses, courses[0])).toBeGreaterThan(0.85);
    }
  });

  test('a line alone does not, nor one with a single like line beside it, nor one among uneven ones', () => {
    expect(repeat([200], 200)).toBeLessThan(0.15);
    expect(repeat([200, 221], 200)).toBeLessThan(0.15);
    expect(repeat([200, 215, 249], 200)).toBeLessThan(0.15);
  });

  test('lines of the other sign or much fainter are not its like', () => {
    const picture = ruled([179, 221], { tone: 60 });
    const light = ruled([200]);
    for (let i = 199 * WIDTH * 3; i < 202 * WIDTH * 3; i++) picture.data[i] = light.data[i];
    expect(periodicityOf(planeOf(picture), level(200), 3, true)).toBeLessThan(0.15);
    const faint = ruled([179, 221], { tone: 124 });
    for (let i = 199 * WIDTH * 3; i < 202 * WIDTH * 3; i++) faint.data[i] = light.data[i];
    expect(periodicityOf(planeOf(faint), level(200), 3, true)).toBeLessThan(0.35);
  });

  test('at the border of the picture nothing is made up', () => {
    expect(repeat([3], 3)).toBeLessThan(0.15);
    expect(periodicityOf(planeOf(ruled([200])), [], 3, true)).toBe(0);
  });

  test('three scratches anywhere are found, five courses in even steps are not', () => {
    expect(found(ruled([90, 131, 290]))).toHaveLength(3);
    expect(found(ruled([158, 179, 200, 221, 242]))).toHaveLength(0);
  });

  test('a scratch that is lost for a while is one find, cover and all', () => {
    const finds = found(ruled([200], { gap: [250, 290] }));
    expect(finds).toHaveLength(1);
    expect(finds[0].box.x).toBeLessThan(66);
    expect(finds[0].box.x + finds[0].box.width).toBeGreaterThan(454);
    expect(finds[0].length).toBeGreaterThan(380);
  });

  test('two scratches far apart on the same level stay two', () => {
    expect(found(ruled([200], { gap: [200, 330] }))).toHaveLength(2);
  });
});
