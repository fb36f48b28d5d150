import { createRaster } from '../raster/raster.ts';
import type { Point } from '../mask/shapes.ts';
import { completeMesh } from './mesh.ts';
import { strandCover, traceStrand } from './strand.ts';
import { rasterise } from '../mask/shapes.ts';

const [W, H] = [720, 520];
/** Strands of a fence seen at an angle, each with a bend of its own. */
const course = (n: number, lean: number) => (y: number) =>
  300 + 58 * n * (1 - 0.003 * n) + lean * (y - H / 2) * (1 - 0.002 * n) + 3 * Math.sin(y / 60 + n);

function fence() {
  const picture = createRaster(W, H, 1, 8);
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++)
      picture.data[y * W + x] = 150 + 30 * Math.sin(x / 90) + (((x * 7919 + y * 104729) >>> 3) % 9);
  const lines: Array<(y: number) => number> = [];
  for (let n = -14; n <= 16; n++) for (const lean of [0.85, -0.8]) lines.push(course(n, lean));
  for (const line of lines) {
    for (let y = 0; y < H; y++) {
      const slope = Math.hypot(1, line(y + 1) - line(y));
      for (let x = Math.floor(line(y + 0.5)) - 6; x <= line(y + 0.5) + 6; x++) {
        if (x < 0 || x >= W) continue;
        const share = Math.min(1, Math.max(0, 2.5 - Math.abs(x + 0.5 - line(y + 0.5)) / slope));
        picture.data[y * W + x] += (35 - picture.data[y * W + x]) * share;
      }
    }
  }
  return { picture, lines };
}

const through = (n: number, lean: number): Point[] => [120, 260, 400].map((y) => [course(n, lean)(y), y]);

describe('completeMesh', () => {
  const { picture, lines } = fence();
  const trace = (n: number, lean: number) => traceStrand(picture, through(n, lean));
  const off = ([x, y]: Point) => Math.min(...lines.map((l) => Math.abs(l(y) - x) / Math.hypot(1, l(y + 1) - l(y))));
  const shareFound = (found: Array<{ points: Point[] }>) => {
    const near = new Uint8Array(W * H);
    for (const { points } of found)
      for (const [x, y] of points)
        for (let v = -3; v <= 3; v++)
          for (let u = -3; u <= 3; u++) {
            const [p, q] = [Math.floor(x) + u, Math.floor(y) + v];
            if (p >= 0 && q >= 0 && p < W && q < H) near[q * W + p] = 1;
          }
    let [all, hit] = [0, 0];
    for (const l of lines)
      for (let y = 2; y < H - 2; y++) {
        const x = Math.floor(l(y));
        if (x < 2 || x >= W - 2) continue;
        all++;
        hit += near[y * W + x];
      }
    return hit / all;
  };

  test('finds all strands of both directions from two of each', () => {
    const found = completeMesh(picture, [trace(0, 0.85), trace(1, 0.85), trace(2, -0.8), trace(3, -0.8)]);
    const onPicture = ([x, y]: Point) => x > 0 && y > 0 && x < W && y < H;
    const offs = found.flatMap((s) => s.points.filter(onPicture).map(off));
    // No stumps are left at the picture's edge.
    const cover = rasterise(found.flatMap(strandCover), { x: 0, y: 0, width: W, height: H }).data;
    const ends = lines
      .flatMap((l) => [0, H - 1].map((y) => [Math.round(l(y + 0.5)), y]))
      .filter(([x]) => x > 4 && x < W - 4);
    expect(ends.filter(([x, y]) => cover[y * W + x] > 0).length / ends.length).toBeGreaterThan(0.9);
    expect(offs.filter((d) => d < 2).length / offs.length).toBeGreaterThan(0.95);
    expect(shareFound(found)).toBeGreaterThan(0.95);
    const widths = found.map((s) => s.width).sort((a, b) => a - b);
    expect(Math.abs(widths[widths.length >> 1] - 4)).toBeLessThan(1);
  });

  test('works out how many strands lie between traced ones that are no neighbours', () => {
    const found = completeMesh(picture, [trace(-1, 0.85), trace(2, 0.85)]);
    const rows = lines.filter((_, i) => i % 2 === 0);
    const middle = rows.filter((l) => l(H / 2) > 20 && l(H / 2) < W - 20);
    for (const l of middle) {
      const close = found.some((s) => s.points.some(([x, y]) => Math.abs(y - H / 2) < 3 && Math.abs(x - l(y)) < 3));
      expect(close).toBe(true);
    }
  });

  test('says what to do when no direction has two strands', () => {
    expect(() => completeMesh(picture, [trace(0, 0.85), trace(2, -0.8)])).toThrow(/two neighbouring strands/);
  });
});

test('a strand out of focus gets a wider cover than a sharp one', () => {
  const line = {
    points: [
      [0, 50],
      [50, 50],
      [100, 50],
    ] as Point[],
    widths: [6, 6, 6],
    width: 6,
  };
  const area = (blur: number) =>
    rasterise(strandCover({ ...line, blur }), { x: 0, y: 0, width: 100, height: 100 }).data.filter((v) => v > 0).length;
  expect(area(0.3)).toBe(600);
  expect(area(2) - area(0.3)).toBeGreaterThan(300);
});
