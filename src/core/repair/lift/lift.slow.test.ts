import type { Point, Shape } from '../../mask/shapes.ts';
import { compositeOver } from '../../raster/patch.ts';
import { createRaster, crop, fullScale, type Channels, type Depth, type Raster } from '../../raster/raster.ts';
import { renderRepair } from '../registry.ts';
import type { LiftSpec } from '../spec.ts';

const WIDTH = 300;
const HEIGHT = 240;
/** A stain in the middle: its radius, the colour that lies over the picture, how much of it, and px across its edge. */
const STAIN = { radius: 62, colour: [122, 90, 44], share: 0.35, edge: 4 };

/** Two grounds with waves and grain of their own, one dark and one light. */
function picture(channels: Channels = 3, depth: Depth = 8): Raster {
  const out = createRaster(WIDTH, HEIGHT, channels, depth);
  const unit = fullScale(depth) / 255;
  let seed = 7;
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++) {
      seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff;
      const grain = ((seed >> 12) % 100) / 25 - 2;
      const wave = 9 * Math.sin(x / 11 + y / 7);
      const dark = x + 0.4 * y < 190;
      for (let c = 0; c < channels; c++)
        out.data[i * channels + c] = Math.round(unit * ((dark ? 70 + 10 * c : 190 - 15 * c) + wave + grain));
    }
  return out;
}

const strengthAt = (x: number, y: number) => {
  const d = Math.hypot(x + 0.5 - WIDTH / 2, y + 0.5 - HEIGHT / 2) - STAIN.radius;
  const t = Math.min(1, Math.max(0, 0.5 - d / STAIN.edge));
  return t * t * (3 - 2 * t);
};

function stained(clean: Raster, share = STAIN.share): Raster {
  const out = { ...clean, data: clean.data.slice() };
  const unit = fullScale(clean.depth) / 255;
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++)
      for (let c = 0; c < clean.channels; c++) {
        const s = share * strengthAt(x, y);
        const p = i * clean.channels + c;
        out.data[p] = Math.round(clean.data[p] * (1 - s) + s * unit * STAIN.colour[c]);
      }
  return out;
}

/** The stain's outline, drawn so many px off in waves. */
const outline = (off: number): Shape[] => [
  {
    op: 'add',
    kind: 'outline',
    points: Array.from({ length: 90 }, (_, n): Point => {
      const angle = (n / 90) * 2 * Math.PI;
      const far = STAIN.radius + off * Math.sin(3 * angle);
      return [WIDTH / 2 + far * Math.cos(angle), HEIGHT / 2 + far * Math.sin(angle)];
    }),
  },
];

function lifted(spoilt: Raster, set: Partial<LiftSpec> = {}) {
  const spec: LiftSpec = { method: 'lift', cover: outline(8), amount: 1, avoid: [], ...set };
  const { patch, reason } = renderRepair({ width: WIDTH, height: HEIGHT, read: (b) => crop(spoilt, b) }, spec);
  const done = { ...spoilt, data: spoilt.data.slice() };
  compositeOver(done, { x: 0, y: 0 }, patch, 1);
  return { done, reason };
}

/** Mean difference in levels of 255 where the stain is. */
function off(a: Raster, b: Raster, counts = (x: number, y: number) => strengthAt(x, y) > 0): number {
  let [n, sum] = [0, 0];
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++) {
      if (!counts(x, y)) continue;
      for (let c = 0; c < a.channels; c++, n++)
        sum += Math.abs(a.data[i * a.channels + c] - b.data[i * a.channels + c]);
    }
  return (sum / n / fullScale(a.depth)) * 255;
}

test('a stain over two grounds is taken off, and what is beneath is as it was, from a rough outline', () => {
  const clean = picture();
  const spoilt = stained(clean);
  const { done, reason } = lifted(spoilt);
  expect(off(spoilt, clean)).toBeGreaterThan(20);
  expect(off(done, clean)).toBeLessThan(3.2);
  expect(reason).toMatch(/layer of 3\d %/);
  expect(reason).not.toMatch(/Not sure/);
});

test.each([
  [1, 16],
  [3, 16],
  [1, 8],
] as const)('with %d channels of %d bits', (channels, depth) => {
  const clean = picture(channels, depth);
  expect(off(lifted(stained(clean)).done, clean)).toBeLessThan(3.2);
});

test('places that the stain does not reach keep every bit', () => {
  const spoilt = stained(picture());
  const { done } = lifted(spoilt);
  const far = (x: number, y: number) => Math.hypot(x - WIDTH / 2, y - HEIGHT / 2) > STAIN.radius + 12;
  expect(off(done, spoilt, far)).toBe(0);
});

test('on ground out of focus that rises and falls beside the edge, slopes are told from the stain', () => {
  const clean = picture();
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++) {
      const blobs = Math.sin(x / 23 + y / 71) * Math.cos(y / 19 - x / 60);
      for (let c = 0; c < 3; c++) clean.data[3 * i + c] = Math.round(110 - 12 * c + (70 - 10 * c) * blobs);
    }
  const spoilt = { ...clean, data: clean.data.slice() };
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++)
      for (let c = 0; c < 3; c++)
        spoilt.data[3 * i + c] = Math.round(clean.data[3 * i + c] * (1 - strengthAt(x, y) * [0.12, 0.25, 0.45][c]));
  expect(off(spoilt, clean)).toBeGreaterThan(20);
  const { done, reason } = lifted(spoilt);
  expect(off(done, clean)).toBeLessThan(8);
  expect(reason).toMatch(/^Lifted/);
});

test('half the amount takes about half of it off', () => {
  const clean = picture();
  const spoilt = stained(clean);
  const left = off(lifted(spoilt, { amount: 0.5 }).done, clean) / off(spoilt, clean);
  expect(left).toBeGreaterThan(0.35);
  expect(left).toBeLessThan(0.65);
});

test('what other faults hide is not measured', () => {
  const clean = picture();
  const spoilt = stained(clean);
  const bar: Shape = { op: 'add', kind: 'box', x: 120, y: 40, width: 60, height: 40 };
  for (let y = 40; y < 80; y++) spoilt.data.fill(255, 3 * (y * WIDTH + 120), 3 * (y * WIDTH + 180));
  const beside = (x: number, y: number) => strengthAt(x, y) > 0 && !(x >= 118 && x < 182 && y >= 38 && y < 82);
  expect(off(lifted(spoilt, { avoid: [bar] }).done, clean, beside)).toBeLessThan(3.2);
});

test('where there is no stain it is not sure, says so and leaves the place as it is, unless it is told to', () => {
  const clean = picture();
  const { done, reason } = lifted(clean);
  expect(reason).toMatch(/^Not sure .* Left as it is/);
  expect(off(done, clean)).toBe(0);
  expect(lifted(clean, { anyway: true }).reason).toMatch(/^Not sure. Lifted/);
});

test('it is drawn where it lies on a canvas that begins below 0, and refused outside', () => {
  const clean = picture();
  const spoilt = stained(clean);
  const at = { x: -40, y: -30 };
  const moved = outline(8).map((s) => ({
    ...s,
    points: (s as { points: Point[] }).points.map(([x, y]): Point => [x + at.x, y + at.y]),
  })) as Shape[];
  const beneath = {
    ...at,
    width: WIDTH,
    height: HEIGHT,
    read: (b: { x: number; y: number; width: number; height: number }) =>
      crop(spoilt, { ...b, x: b.x - at.x, y: b.y - at.y }),
  };
  const { patch } = renderRepair(beneath, { method: 'lift', cover: moved, amount: 1, avoid: [] });
  const done = { ...spoilt, data: spoilt.data.slice() };
  compositeOver(done, at, patch, 1);
  expect(Buffer.from(done.data).equals(Buffer.from(lifted(spoilt).done.data))).toBe(true);
  expect(() => lifted(spoilt, { cover: [{ op: 'add', kind: 'box', x: 900, y: 900, width: 40, height: 40 }] })).toThrow(
    /outside the picture/,
  );
});
