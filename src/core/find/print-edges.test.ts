import { createRaster, type Raster } from '../raster/raster.ts';
import type { Point, Shape } from '../mask/shapes.ts';
import { printEdges, printEdgesThrough } from './print-edges.ts';

const SIZE = 400;
/** px that the left edge leans over the height, and where it begins. */
const LEAN = 2;
const LEFT = 30.4;
const leftAt = (y: number) => LEFT + (LEAN * y) / SIZE;

/** A print with a margin of paper; its left edge leans, its lower right corner is gone. */
function print(torn = true): Raster {
  const picture = createRaster(SIZE, SIZE, 3, 8);
  let state = 7;
  const random = () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 4294967296;
  for (let y = 0, i = 0; y < SIZE; y++) {
    for (let x = 0; x < SIZE; x++, i++) {
      const inside = Math.min(1, Math.max(0, x + 1 - leftAt(y + 0.5))) * Number(x < 360 && y >= 40 && y < 365);
      const scene = 90 + 40 * Math.sin(x / 9) * Math.cos(y / 13);
      const gone = torn && x + y > 640;
      const tone = gone ? 60 : 225 + (scene - 225) * inside;
      for (let c = 0; c < 3; c++) picture.data[3 * i + c] = Math.round(tone + 4 * (random() - 0.5));
    }
  }
  return picture;
}

const CORNER: Shape[] = [
  {
    op: 'add',
    kind: 'outline',
    points: [
      [400, 240],
      [400, 400],
      [240, 400],
    ],
  },
];
const pointsOf = (shape: Shape): Point[] => (shape.kind === 'strand' ? shape.points : []);

test('edges of a print are found to half a px, leaning ones too', () => {
  const edges = printEdges(print(), { x: 240, y: 240, width: 160, height: 160 });
  for (const y of [20, 200, 380]) expect(Math.abs(edges.left!(y) - leftAt(y))).toBeLessThan(0.5);
  expect(Math.abs(edges.right!(100) - 360)).toBeLessThan(0.5);
  expect(Math.abs(edges.top!(200) - 40)).toBeLessThan(0.5);
  expect(Math.abs(edges.bottom!(100) - 365)).toBeLessThan(0.5);
});

test('two edges that meet in a torn corner run on around it', () => {
  const [line, ...others] = printEdgesThrough(print(), CORNER);
  expect(others).toEqual([]);
  const [from, corner, to] = pointsOf(line);
  expect(Math.hypot(corner[0] - 360, corner[1] - 365)).toBeLessThan(0.8);
  // It comes and goes along the picture's edges, outside what is torn.
  expect(Math.abs(from[0] - 360)).toBeLessThan(0.8);
  expect(from[1]).toBeLessThan(240);
  expect(Math.abs(to[1] - 365)).toBeLessThan(0.8);
  expect(to[0]).toBeLessThan(240);
});

test('one edge that runs through a tear at a side runs on straight', () => {
  const side: Shape[] = [{ op: 'add', kind: 'box', x: 0, y: 180, width: 60, height: 50 }];
  const [line, ...others] = printEdgesThrough(print(), side);
  expect(others).toEqual([]);
  const points = pointsOf(line);
  expect(points).toHaveLength(2);
  for (const [x, y] of points) expect(Math.abs(x - leftAt(y))).toBeLessThan(0.5);
});

test('a tear within the picture, and a picture without a margin, have none', () => {
  const within: Shape[] = [{ op: 'add', kind: 'box', x: 150, y: 150, width: 60, height: 50 }];
  expect(printEdgesThrough(print(), within)).toEqual([]);
  const plain = createRaster(SIZE, SIZE, 3, 8);
  plain.data.forEach((_, i) => (plain.data[i] = 100 + 50 * Math.sin(i / 700)));
  expect(printEdgesThrough(plain, CORNER)).toEqual([]);
});
