import { rasterise } from '../mask/shapes.ts';
import { createRaster, type Raster } from '../raster/raster.ts';
import { proposeSubject } from './subject-proposal.ts';
import { subjectEdge } from './subject.ts';

const [WIDTH, HEIGHT] = [320, 240];

/** A jug with a handle, through which its ground is seen, before a ground that gets darker; grain on all of it. */
const isJug = (x: number, y: number) => {
  const body = ((x - 150) / 45) ** 2 + ((y - 135) / 70) ** 2 < 1;
  const d = Math.hypot(x - 202, y - 125);
  return body || (d > 21 && d < 31);
};

function picture(ground: (x: number, y: number) => number[], jug = [150, 60, 45]): Raster {
  const out = createRaster(WIDTH, HEIGHT, 3, 8);
  let seed = 5;
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++) {
      seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff;
      const grain = ((seed >> 12) % 100) / 12 - 4;
      const light = isJug(x, y) ? 1 + 0.3 * Math.sin(x / 30) : 1;
      const colour = isJug(x, y) ? jug : ground(x, y);
      for (let c = 0; c < 3; c++)
        out.data[3 * i + c] = Math.round(Math.min(255, Math.max(0, colour[c] * light + grain)));
    }
  return out;
}

/** Share of what is in either that is in both. */
function agreement(shapes: ReturnType<typeof subjectEdge>): number {
  const { data } = rasterise(shapes, { x: 0, y: 0, width: WIDTH, height: HEIGHT });
  let [both, either] = [0, 0];
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++) {
      const own = isJug(x, y);
      if (own && data[i]) both++;
      if (own || data[i]) either++;
    }
  return both / either;
}

const WITHIN = { x: 90, y: 50, width: 160, height: 170 };
const shaded = (x: number, y: number) => [90 + 0.24 * x, 110 + 0.2 * y, 120 + 0.1 * x];

test('the edge of a subject is found within a rough box, and what is seen through its handle is none of it', () => {
  const shapes = subjectEdge(picture(shaded), { within: WITHIN, keep: [], leave: [] });
  expect(shapes.map((s) => s.op)).toEqual(['add', 'take']);
  expect(agreement(shapes)).toBeGreaterThan(0.97);
});

test('what is marked as part of it is, and what is marked as none of it is not', () => {
  const table = (x: number, y: number) => (y > 165 ? [120, 75, 60] : shaded(x, y));
  const jug = picture(table);
  const knob = { op: 'add', kind: 'box', x: 115, y: 56, width: 20, height: 8 } as const;
  const cloth = { op: 'add', kind: 'box', x: 90, y: 168, width: 30, height: 50 } as const;
  const shapes = subjectEdge(jug, { within: WITHIN, keep: [knob], leave: [cloth] });
  const { data } = rasterise(shapes, { x: 0, y: 0, width: WIDTH, height: HEIGHT });
  expect(data[60 * WIDTH + 125]).toBe(255);
  expect(data[200 * WIDTH + 100]).toBe(0);
  expect(agreement(shapes)).toBeGreaterThan(0.88);
});

test('it works on grey of 16 bits, at any size, and says nothing where nothing is marked', () => {
  const grey = createRaster(WIDTH, HEIGHT, 1, 16);
  const colour = picture(() => [190, 190, 190]);
  for (let i = 0; i < grey.data.length; i++) grey.data[i] = 257 * colour.data[3 * i + 1];
  expect(agreement(subjectEdge(grey, { within: WITHIN, keep: [], leave: [] }))).toBeGreaterThan(0.97);
  expect(subjectEdge(grey, { within: { x: 900, y: 0, width: 50, height: 50 }, keep: [], leave: [] })).toEqual([]);
});

test('a thin part that hangs on the subject is kept, though it is less than a px wide where the subject is decided', () => {
  const small = picture(shaded, [170, 120, 40]);
  const scene = createRaster(3 * WIDTH, 3 * HEIGHT, 3, 8);
  const isRod = (x: number, y: number) => x >= 449 && x < 452 && y >= 70 && y < 205;
  const isOver = (x: number, y: number) => isJug(x / 3, y / 3);
  for (let y = 0, i = 0; y < scene.height; y++)
    for (let x = 0; x < scene.width; x++, i++) {
      const own = 3 * (Math.floor(y / 3) * WIDTH + Math.floor(x / 3));
      const colour = isOver(x, y) ? null : isRod(x, y) ? [90, 40, 10] : null;
      for (let c = 0; c < 3; c++) scene.data[3 * i + c] = colour ? colour[c] : small.data[own + c];
    }
  const shapes = subjectEdge(scene, { within: { x: 210, y: 40, width: 570, height: 620 }, keep: [], leave: [] });
  const { data } = rasterise(shapes, { x: 0, y: 0, width: scene.width, height: scene.height });
  let [own, n] = [0, 0];
  for (let y = 0, i = 0; y < scene.height; y++)
    for (let x = 0; x < scene.width; x++, i++) if (isRod(x, y)) [own, n] = [own + (data[i] ? 1 : 0), n + 1];
  expect(own / n).toBeGreaterThan(0.8);
});

test('what stands out from all that leads to the edges is proposed as the subject; of an even picture nothing is', () => {
  expect(agreement(proposeSubject(picture(shaded, [170, 120, 40]))!)).toBeGreaterThan(0.95);
  const even = createRaster(WIDTH, HEIGHT, 3, 8);
  even.data.fill(120);
  expect(proposeSubject(even)).toBeNull();
  // Ground that goes from one side to the other is no subject, and neither is what is to be treated.
  const striped = picture((_, y) => (y > 120 ? [60, 90, 40] : [150, 170, 200]), [60, 90, 40]);
  expect(proposeSubject(striped)).toBeNull();
  const fault = [{ op: 'add', kind: 'box', x: 95, y: 55, width: 150, height: 160 } as const];
  expect(proposeSubject(picture(shaded, [170, 120, 40]), fault)).toBeNull();
});
