import type { Point } from '../../mask/shapes.ts';
import { createRaster, crop, type Raster } from '../../raster/raster.ts';
import { renderRepair } from '../registry.ts';
import type { StripSpec } from '../spec.ts';
import { heightOf, ontoStrip } from './index.ts';
import { depthAt, PROFILES, shadingOf, STEPS } from './profile.ts';

const [WIDTH, HEIGHT] = [240, 200];
const pointsOf = (name: keyof typeof PROFILES) => PROFILES[name].map(([t, d]): Point => [t, d]);

/** A backdrop that is lighter at the left, with grain, above a floor. */
function picture(depth: 8 | 16 = 8): Raster {
  const out = createRaster(WIDTH, HEIGHT, 3, depth);
  const unit = depth === 16 ? 257 : 1;
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++) {
      const grain = ((i * 2654435761) >>> 9) % 9;
      const tone = y < 140 ? 170 - 0.25 * x : 90;
      for (let c = 0; c < 3; c++) out.data[3 * i + c] = unit * Math.round(tone - 8 * c + grain);
    }
  return out;
}

const spec = (set: Partial<StripSpec> = {}): StripSpec => ({
  method: 'strip',
  corners: [
    [20, 110],
    [220, 120],
    [220, 140],
    [20, 140],
  ],
  profile: pointsOf('rounded board'),
  relief: 1,
  stops: 0,
  shadow: 0.7,
  guard: [],
  ...set,
});

function laid(source: Raster, s: StripSpec): Raster {
  const { patch } = renderRepair({ width: WIDTH, height: HEIGHT, read: (box) => crop(source, box) }, s);
  const out = { ...source, data: source.data.slice() };
  for (let y = 0; y < patch.height; y++)
    for (let x = 0; x < patch.width; x++) {
      const o = 4 * (y * patch.width + x);
      if (patch.data[o + 3])
        for (let c = 0; c < 3; c++) out.data[3 * ((patch.y + y) * WIDTH + patch.x + x) + c] = patch.data[o + c];
    }
  return out;
}
const mean = (p: Raster, x0: number, y0: number, x1: number, y1: number) => {
  let sum = 0;
  for (let y = y0; y < y1; y++) for (let x = x0; x < x1; x++) sum += p.data[3 * (y * WIDTH + x)];
  return sum / ((x1 - x0) * (y1 - y0));
};

test('the map takes the corners of any quadrilateral to those of the strip; none where they lie on a line', () => {
  const { corners } = spec();
  const [a, b, c, d, e, f, g, h] = ontoStrip(corners)!;
  const at = ([x, y]: Point) => [(a * x + b * y + c) / (g * x + h * y + 1), (d * x + e * y + f) / (g * x + h * y + 1)];
  const to = [
    [0, 0],
    [1, 0],
    [1, 1],
    [0, 1],
  ];
  corners.forEach((p, k) => at(p).forEach((v, n) => expect(v).toBeCloseTo(to[k][n], 6)));
  expect(heightOf(corners)).toBe(25);
  const line = corners.map(([x]): Point => [x, 50]) as StripSpec['corners'];
  expect(() => laid(picture(), spec({ corners: line }))).toThrow(/no height/);
});

test('what looks up is lit, what looks down is not, and what stands out casts its shadow below', () => {
  const shading = shadingOf(pointsOf('rounded board'), 1);
  expect(shading[Math.round(0.04 * STEPS)]).toBeGreaterThan(1.1);
  expect(shading[Math.round(0.6 * STEPS)]).toBeCloseTo(1, 2);
  // A ledge that goes in again: beneath it the board lies in shadow.
  const ledge: Point[] = [[0, 0.1], [0.3, 0.1], [0.32, 0], [1, 0]]; // prettier-ignore
  const shaded = shadingOf(ledge, 1);
  expect(shaded[Math.round(0.36 * STEPS)]).toBeLessThan(0.8);
  expect(shaded[Math.round(0.9 * STEPS)]).toBeCloseTo(1, 2);
  for (const v of shadingOf(ledge, 0)) expect(v).toBeCloseTo(1, 6);
  expect(depthAt(ledge, 0.31)).toBeCloseTo(0.05, 6);
});

test('it has the tone of what is above it along its length, its grain, and a shadow on the floor that fades', () => {
  const source = picture();
  const done = laid(source, spec());
  for (const x of [40, 120, 200]) {
    const above = mean(source, x - 10, 90, x + 10, 105);
    expect(Math.abs(mean(done, x - 10, 128, x + 10, 138) - above)).toBeLessThan(6);
  }
  const spreadOf = (p: Raster, y0: number, y1: number) => {
    const m = mean(p, 100, y0, 140, y1);
    let sum = 0;
    for (let y = y0; y < y1; y++) for (let x = 100; x < 140; x++) sum += (p.data[3 * (y * WIDTH + x)] - m) ** 2;
    return Math.sqrt(sum / (40 * (y1 - y0)));
  };
  expect(spreadOf(done, 128, 138) / spreadOf(source, 90, 105)).toBeGreaterThan(0.6);
  expect(mean(done, 60, 140, 180, 142)).toBeLessThan(0.8 * mean(source, 60, 140, 180, 142));
  expect(mean(done, 60, 160, 180, 165)).toBe(mean(source, 60, 160, 180, 165));
  // Nothing else of the picture is touched.
  for (let i = 0; i < 3 * WIDTH * 105; i++) expect(done.data[i]).toBe(source.data[i]);
});

test('what is guarded stands before it, to the bit; flat and lighter are as asked; 16 bits are as 8', () => {
  const source = picture();
  const guard = [{ op: 'add', kind: 'box', x: 100, y: 60, width: 30, height: 100 } as const];
  const done = laid(source, spec({ guard }));
  for (let y = 60; y < 160; y++)
    for (let x = 100; x < 130; x++) expect(done.data[3 * (y * WIDTH + x)]).toBe(source.data[3 * (y * WIDTH + x)]);
  const flat = laid(source, spec({ relief: 0, stops: 1 }));
  expect(mean(flat, 100, 125, 140, 138) / mean(source, 100, 90, 140, 105)).toBeCloseTo(2 ** (1 / 2.2), 1);
  const fine = laid(picture(16), spec());
  const same = laid(source, spec());
  expect(mean(fine, 40, 120, 200, 138) / 257).toBeCloseTo(mean(same, 40, 120, 200, 138), 0);
});

test('it says how high it is and where its light comes from; moved with its picture it is the same', () => {
  const source = picture();
  const read = (box: { x: number; y: number; width: number; height: number }) => crop(source, box);
  const made = renderRepair({ width: WIDTH, height: HEIGHT, read }, spec());
  expect(made.reason).toBe(
    'A strip 25 px high, lit from above and the left, with the tone and grain of what is above it.',
  );
  const shifted = spec({ corners: spec().corners.map(([x, y]): Point => [x - 30, y - 10]) as StripSpec['corners'] });
  const moved = renderRepair(
    { x: -30, y: -10, width: WIDTH, height: HEIGHT, read: (b) => read({ ...b, x: b.x + 30, y: b.y + 10 }) },
    shifted,
  );
  expect([moved.patch.x, moved.patch.y]).toEqual([made.patch.x - 30, made.patch.y - 10]);
  expect(Buffer.from(moved.patch.data).equals(Buffer.from(made.patch.data))).toBe(true);
});
