import { createRaster } from '../../../raster/raster.ts';
import type { Point } from '../../../mask/shapes.ts';
import { completeMesh } from './complete-mesh.ts';
import { strandCover } from '../strand-cover.ts';
import { traceStrand } from '../strand.ts';
import { rasterise } from '../../../mask/shapes.ts';

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

test('wide strands are found as well, and measured in the picture’s own size', () => {
  // The same fence three times as large: its strands are 12 px wide and are looked for at half the size.
  const { picture: small, lines: both } = fence();
  const lines = both.filter((_, i) => i % 2 === 0);
  const by = 3;
  const [w, h] = [W * by, H * by];
  const picture = createRaster(w, h, 1, 8);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) picture.data[y * w + x] = small.data[Math.floor(y / by) * W + Math.floor(x / by)];
  const trace = (n: number, lean: number) =>
    traceStrand(
      picture,
      through(n, lean).map(([x, y]): Point => [x * by, y * by]),
    );
  const found = completeMesh(picture, [trace(0, 0.85), trace(1, 0.85)]);
  const inside = ([x, y]: Point) => x > 0 && y > 0 && x < w && y < h;
  const offs = found.flatMap((s) =>
    s.points
      .filter(inside)
      .map(([x, y]) =>
        Math.min(...lines.map((l) => Math.abs(l(y / by) * by - x) / Math.hypot(1, l(y / by + 1) - l(y / by)))),
      ),
  );
  expect(offs.filter((d) => d < 3).length / offs.length).toBeGreaterThan(0.95);
  const widths = found.map((s) => s.width).sort((a, b) => a - b);
  expect(Math.abs(widths[widths.length >> 1] - 12)).toBeLessThan(2);
  const cover = rasterise(
    found.flatMap((s) => strandCover(s)),
    { x: 0, y: 0, width: w, height: h },
  ).data;
  let [all, hit] = [0, 0];
  for (const l of lines)
    for (let y = 6; y < h - 6; y += 3) {
      const x = Math.floor(l(y / by) * by);
      if (x < 6 || x >= w - 6) continue;
      all++;
      if (cover[y * w + x]) hit++;
    }
  expect(hit / all).toBeGreaterThan(0.95);
});

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
    for (const s of found) expect([s.widths.length, s.unsure.length]).toEqual([s.points.length, s.points.length]);
    const onPicture = ([x, y]: Point) => x > 0 && y > 0 && x < W && y < H;
    const offs = found.flatMap((s) => s.points.filter(onPicture).map(off));
    // No stumps are left at the picture's edge.
    const cover = rasterise(
      found.flatMap((s) => strandCover(s)),
      { x: 0, y: 0, width: W, height: H },
    ).data;
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
    blurs: [],
    unsure: [0, 0, 0],
  };
  const area = (blur: number, unsure = line.unsure) =>
    rasterise(strandCover({ ...line, blur, unsure }), { x: 0, y: 0, width: 100, height: 100 }).data.filter((v) => v > 0)
      .length;
  expect(area(0.3)).toBe(600);
  expect(area(2) - area(0.3)).toBeGreaterThan(300);
  // And wider where the strand was lost in its ground.
  expect(area(0.3, [2, 2, 2])).toBe(1000);
});

describe('a fence that is hard to see', () => {
  const [w, h] = [480, 360];
  const line = (n: number) => (y: number) => 60 + 56 * n + 0.6 * (y - h / 2) + 2 * Math.sin(y / 40 + n);
  const rows = Array.from({ length: 14 }, (_, n) => line(n - 4));

  /** One family of strands over a ground; both say what colour a place has. */
  function strung(ground: (x: number, y: number) => number[], strand: (x: number, y: number) => number[]) {
    const picture = createRaster(w, h, 3, 8);
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const on = rows.some((l) => Math.abs(x + 0.5 - l(y + 0.5)) / Math.hypot(1, 0.6) < 2.4);
        const colour = on ? strand(x, y) : ground(x, y);
        const grain = ((x * 7919 + y * 104729) >>> 3) % 5;
        picture.data.set(
          colour.map((v) => v + grain),
          (y * w + x) * 3,
        );
      }
    return picture;
  }
  const trace = (picture: ReturnType<typeof strung>, n: number) =>
    traceStrand(
      picture,
      [30, 120, 230, 330].map((y): Point => [line(n)(y), y]),
    );
  /** Share of what lies on the picture that is covered, within `slack` px, and of the cover that lies on a strand. */
  function shares(found: ReturnType<typeof completeMesh>, from = 0, to = w, slack = 0) {
    const cover = rasterise(
      found.flatMap((s) => strandCover(s)),
      { x: 0, y: 0, width: w, height: h },
    ).data;
    let [all, hit, mine, good] = [0, 0, 0, 0];
    for (const l of rows)
      for (let y = 3; y < h - 3; y++) {
        const x = Math.floor(l(y + 0.5));
        if (x < Math.max(3, from) || x >= Math.min(w - 3, to)) continue;
        all++;
        if (cover.subarray(y * w + x - slack, y * w + x + slack + 1).some((v) => v > 0)) hit++;
      }
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        if (!cover[y * w + x]) continue;
        mine++;
        if (rows.some((l) => Math.abs(x + 0.5 - l(y + 0.5)) < 5)) good++;
      }
    return { recall: hit / all, precision: good / mine };
  }

  test('since only one colour tells it from its ground, is found by that colour', () => {
    // Luma (Rec. 709) of both is about the same: what red and green lose, blue would have to gain ninefold.
    const ground = () => [190, 170, 70];
    const strand = () => [184, 162, 170];
    const luma = ([r, g, b]: number[]) => 0.2126 * r + 0.7152 * g + 0.0722 * b;
    expect(Math.abs(luma(ground()) - luma(strand()))).toBeLessThan(1);
    const picture = strung(ground, strand);
    const strands = [3, 4].map((n) => ({
      points: Array.from({ length: 150 }, (_, i): Point => [line(n)(20 + 2 * i), 20 + 2 * i]),
      widths: new Array<number>(150).fill(5),
      width: 5,
      blur: 0.5,
      contrast: 0,
      length: 350,
      certainty: 1,
      blurs: [],
      unsure: [],
    }));
    const { recall, precision } = shares(completeMesh(picture, strands));
    expect(recall).toBeGreaterThan(0.95);
    expect(precision).toBeGreaterThan(0.95);
  });

  test('goes on where its ground has its own tone, not where something else lies in front', () => {
    const band = (x: number) => x > 200 && x < 290;
    const alike = strung(
      (x) => (band(x) ? [62, 62, 62] : [170, 170, 170]),
      () => [60, 60, 60],
    );
    const there = shares(completeMesh(alike, [trace(alike, -1), trace(alike, 0)]), 205, 285, 3);
    expect(there.recall).toBeGreaterThan(0.9);
    // A wide board of another tone in front of it: nothing of the fence is to be covered there.
    const board = (x: number) => x > 190 && x < 420;
    const hidden = strung(
      (x) => (board(x) ? [225, 225, 225] : [140, 140, 140]),
      (x) => (board(x) ? [225, 225, 225] : [60, 60, 60]),
    );
    const found = completeMesh(hidden, [trace(hidden, -3), trace(hidden, -2)]);
    expect(shares(found, 0, 180).recall).toBeGreaterThan(0.9);
    const cover = rasterise(
      found.flatMap((s) => strandCover(s)),
      { x: 0, y: 0, width: w, height: h },
    ).data;
    let on = 0;
    for (let y = 0; y < h; y++) for (let x = 215; x < 395; x++) if (cover[y * w + x]) on++;
    expect(on / (180 * h)).toBeLessThan(0.03);
  });

  test('is the same at 16 bit, and can be given up', () => {
    const eight = strung(
      () => [170, 170, 170],
      () => [50, 50, 50],
    );
    const sixteen = { ...eight, depth: 16 as const, data: Uint16Array.from(eight.data, (v) => v * 257) };
    const strands = [trace(eight, 0), trace(eight, 1)];
    const [a, b] = [completeMesh(eight, strands), completeMesh(sixteen, strands)];
    expect(b).toHaveLength(a.length);
    a.forEach((s, n) => expect(Math.abs(s.width - b[n].width)).toBeLessThan(0.05));
    expect(() =>
      completeMesh(eight, strands, () => {
        throw new Error('Cancelled.');
      }),
    ).toThrow('Cancelled.');
  });
});
