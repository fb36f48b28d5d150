import { rasterise, type Shape } from '../../mask/shapes.ts';
import { compositeOver } from '../../raster/patch.ts';
import { createRaster, crop, type Raster } from '../../raster/raster.ts';
import { renderRepair } from '../registry.ts';
import { lostAlong } from './along-line.ts';

const WIDTH = 620;
const HEIGHT = 200;
/** px beside the middle of a crease: its course, and what it does there. */
const course = (x: number) => 100 + 8 * Math.sin(x / 60);
const LINE: Shape[] = [
  {
    op: 'add',
    kind: 'strand',
    points: Array.from({ length: 32 }, (_, n): [number, number] => [n * 20, course(n * 20) + (n % 2 ? 2 : -2)]),
    size: 10,
  },
];
/** A pale band of 24 px with a white core of 6 px in it. */
function creased(v: number, d: number): number {
  if (Math.abs(d) < 3) return 246;
  return Math.abs(d) < 12 ? 0.8 * v + 0.2 * 250 : v;
}

function picture(): Raster {
  const out = createRaster(WIDTH, HEIGHT, 3, 8);
  let seed = 9;
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++) {
      seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff;
      const ground = [60, 150, 95, 190, 40][Math.floor(x / 62) % 5];
      for (let c = 0; c < 3; c++)
        out.data[3 * i + c] = ground + 8 * c + 6 * Math.sin(x / 5) + ((seed >> 12) % 100) / 25;
    }
  return out;
}

const clean = picture();
const spoilt: Raster = {
  ...clean,
  data: clean.data.map((v, k) => {
    const i = Math.floor(k / 3);
    const [x, y] = [(i % WIDTH) + 0.5, Math.floor(i / WIDTH) + 0.5];
    return Math.round(creased(v, y - course(x)));
  }),
};
const off = (a: Raster, from: number, to: number) => {
  let [n, sum] = [0, 0];
  for (let i = 0; i < WIDTH * HEIGHT; i++) {
    const d = Math.abs(Math.floor(i / WIDTH) + 0.5 - course((i % WIDTH) + 0.5));
    if (d < from || d >= to) continue;
    for (let c = 0; c < 3; c++, n++) sum += Math.abs(a.data[3 * i + c] - clean.data[3 * i + c]);
  }
  return sum / n;
};

test('the band of a crease is lifted over dark and light ground, what is gone is told and left for a fill', () => {
  const found = lostAlong(spoilt, LINE)!;
  expect(found.certainty).toBeGreaterThan(3);
  const [lost] = found.lost as Array<Extract<Shape, { kind: 'strand' }>>;
  expect(lost.size).toBeGreaterThanOrEqual(6);
  expect(lost.size).toBeLessThanOrEqual(11);
  // It follows the crease although the line was drawn in zigzag.
  const wrong = lost.points.map(([x, y]) => Math.abs(y - course(x)));
  expect(wrong.sort((a, b) => a - b)[Math.floor(0.9 * wrong.length)]).toBeLessThan(1.5);

  const beneath = { width: WIDTH, height: HEIGHT, read: (b: Parameters<typeof crop>[1]) => crop(spoilt, b) };
  const { patch, reason } = renderRepair(beneath, { method: 'lift', cover: LINE, amount: 1, avoid: [] });
  expect(reason).toMatch(/band of 2\d px, .* px of it are lost/);
  const done = { ...spoilt, data: spoilt.data.slice() };
  compositeOver(done, { x: 0, y: 0 }, patch, 1);
  expect(off(spoilt, 6, 11)).toBeGreaterThan(20);
  expect(off(done, 6, 11)).toBeLessThan(3.5);
  expect(off(done, 16, 60)).toBe(0);
});

test('a shadow beside the core that does not keep its distance belongs to what is lost', () => {
  const shadowed: Raster = {
    ...spoilt,
    data: spoilt.data.map((v, k) => {
      const x = (Math.floor(k / 3) % WIDTH) + 0.5;
      const d = Math.floor(Math.floor(k / 3) / WIDTH) + 0.5 - course(x);
      return Math.abs(d - 6.5 - 2 * Math.sin(x / 9)) < 2 ? Math.round(0.5 * v + 20) : v;
    }),
  };
  const [plain] = lostAlong(spoilt, LINE)!.lost as Array<Extract<Shape, { kind: 'strand' }>>;
  const [lost] = lostAlong(shadowed, LINE)!.lost as Array<Extract<Shape, { kind: 'strand' }>>;
  expect(lost.size).toBeGreaterThan(plain.size + 2);
  // It is on one side: the middle of what is lost moves towards it.
  const aside = lost.points.map(([x, y]) => y - course(x)).sort((a, b) => a - b);
  expect(aside[aside.length >> 1]).toBeGreaterThan(1);
  expect(lost.size).toBeLessThan(20);
});

test('a speck that lies half on the core belongs to what is lost; on a clean crease there is none', () => {
  const at: [number, number] = [300, course(300) - 8];
  const specked: Raster = {
    ...spoilt,
    data: spoilt.data.map((v, k) => {
      const i = Math.floor(k / 3);
      return Math.hypot((i % WIDTH) + 0.5 - at[0], Math.floor(i / WIDTH) + 0.5 - at[1]) < 8 ? 244 : v;
    }),
  };
  const [, ...clinging] = lostAlong(specked, LINE)!.lost;
  expect(clinging).toHaveLength(1);
  const box = { x: 280, y: 60, width: 40, height: 60 };
  const mask = rasterise(clinging, box);
  const covered = (x: number, y: number) => mask.data[(Math.round(y) - box.y) * box.width + Math.round(x) - box.x] > 0;
  expect(covered(at[0], at[1] - 5)).toBe(true);
  expect(covered(at[0] + 4, at[1] - 2)).toBe(true);
  expect(covered(at[0], at[1] - 14)).toBe(false);
  expect(lostAlong(spoilt, LINE)!.lost).toHaveLength(1);
});

test('where there is none nothing is found; an area is no line', () => {
  expect(lostAlong(clean, LINE)?.certainty ?? 0).toBeLessThan(2);
  expect(lostAlong(spoilt, [{ op: 'add', kind: 'box', x: 10, y: 10, width: 90, height: 40 }])).toBeNull();
});
