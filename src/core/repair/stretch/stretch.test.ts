import { blur } from '../../raster/planes.ts';
import { compositeOver } from '../../raster/patch.ts';
import {
  boxOf,
  createRaster,
  crop,
  paste,
  type Box,
  type Channels,
  type Depth,
  type Raster,
} from '../../raster/raster.ts';
import { quantile } from '../../raster/luma.ts';
import { renderRepair } from '../registry.ts';
import type { StretchSpec } from '../spec.ts';
import { amountsInWords, amountsOf } from './amounts.ts';
import { drawnOut, readFrom } from './axis.ts';

const SIZE = { width: 320, height: 200 };
const SUBJECT: Box = { x: 130, y: 60, width: 60, height: 120 };

/** A backdrop with a floor line, light that falls off and grain; a patterned subject before it. */
function picture(channels: Channels = 3, depth: Depth = 8): Raster {
  const out = createRaster(SIZE.width, SIZE.height, channels, depth);
  const unit = depth === 16 ? 257 : 1;
  let seed = 5;
  const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647 - 0.5;
  for (let y = 0, i = 0; y < SIZE.height; y++)
    for (let x = 0; x < SIZE.width; x++, i++) {
      const subject =
        x >= SUBJECT.x && x < SUBJECT.x + SUBJECT.width && y >= SUBJECT.y && y < SUBJECT.y + SUBJECT.height;
      const grain = 14 * random();
      for (let c = 0; c < channels; c++)
        out.data[i * channels + c] = Math.round(
          unit * (subject ? (x * 37 + y * 59 + c * 11) % 256 : 150 - 0.2 * x - (y >= 150 ? 60 : 0) + 6 * c + grain),
        );
    }
  return out;
}

function stretched(source: Raster, onto: Box, set: Partial<StretchSpec> = {}) {
  const spec: StretchSpec = {
    method: 'stretch',
    from: boxOf(source),
    onto,
    guard: [{ op: 'add', kind: 'box', ...SUBJECT }],
    canvas: onto,
    ...set,
  };
  const { patch, reason } = renderRepair({ ...onto, read: (b) => crop(source, b) }, spec);
  const out = createRaster(onto.width, onto.height, source.channels, source.depth);
  paste(source, out, { ...boxOf(source), x: -onto.x, y: -onto.y });
  compositeOver(out, onto, patch, 1);
  return { out, patch, reason };
}

const WIDER: Box = { x: -60, y: 0, width: 420, height: 200 };
const inOut = (box: Box, onto: Box): Box => ({ ...box, x: box.x - onto.x, y: box.y - onto.y });

test.each([
  [3, 8],
  [1, 16],
  [3, 16],
  [4, 8],
] as const)('what is guarded keeps every bit where it is, with %d channels of %d bits', (channels, depth) => {
  const source = picture(channels, depth);
  const onto = { x: -60, y: -20, width: 420, height: 240 };
  const { out, patch } = stretched(source, onto);
  expect(Buffer.from(crop(out, inOut(SUBJECT, onto)).data.buffer)).toEqual(
    Buffer.from(crop(source, SUBJECT).data.buffer),
  );
  expect({ ...patch, data: 0 }).toMatchObject(onto);
});

test('straight horizontals stay where they are, what was at the border is at the new one', () => {
  const source = picture();
  const { out } = stretched(source, WIDER);
  for (const x of [2, 40, 100, 330, 417]) {
    const column = Array.from({ length: 200 }, (_, y) => out.data[3 * (y * 420 + x)]);
    const steps = column.map((v, y) =>
      y > 3 && y < 196 ? column[y - 3] + column[y - 2] + column[y - 1] - column[y] - column[y + 1] - column[y + 2] : 0,
    );
    expect(Math.abs(steps.indexOf(Math.max(...steps)) - 150)).toBeLessThanOrEqual(1);
  }
  const meanOf = (r: Raster, x: number, width: number) => {
    let sum = 0;
    for (let y = 0; y < 140; y++) for (let k = 0; k < 8; k++) sum += r.data[3 * (y * width + x + k)];
    return sum / (140 * 8);
  };
  expect(Math.abs(meanOf(out, 0, 420) - meanOf(source, 0, 320))).toBeLessThan(2.5);
  expect(Math.abs(meanOf(out, 412, 420) - meanOf(source, 312, 320))).toBeLessThan(2.5);
});

test('grain is as strong where the background was drawn out as it was', () => {
  const source = picture();
  const { out } = stretched(source, { x: -120, y: 0, width: 560, height: 200 });
  const grainIn = (r: Raster, box: Box) => {
    const part = crop(r, box);
    const luma = Float32Array.from({ length: box.width * box.height }, (_, i) => part.data[3 * i + 1]);
    const soft = blur(luma, box.width, box.height, 2);
    return quantile(
      luma.map((v, i) => Math.abs(v - soft[i])),
      0.5,
    );
  };
  const was = grainIn(source, { x: 10, y: 10, width: 100, height: 120 });
  const is = grainIn(out, { x: 10, y: 10, width: 180, height: 120 });
  expect(is / was).toBeGreaterThan(0.85);
  expect(is / was).toBeLessThan(1.15);
});

test('says how far it goes; the same pixels and settings give the same bytes, on canvases that begin below 0', () => {
  const source = picture();
  const first = stretched(source, WIDER);
  expect(first.reason).toMatch(/1\.47 times at the left, 1\.31 at the right, 1\.\d\d times at most.*to the pixel/);
  expect(Buffer.from(stretched(source, WIDER).out.data.buffer)).toEqual(Buffer.from(first.out.data.buffer));
});

test('plain background is drawn out more than what shows much, evenly, and never turned over', () => {
  const energy = Float64Array.from({ length: 300 }, (_, x) => (x >= 40 && x < 80 ? 12 : 1));
  const axis = drawnOut(energy, { from: 150, to: 200 }, 80, 0);
  const wide = (from: number, to: number) => (axis.edges[to] - axis.edges[from]) / (to - from);
  expect(axis.edges[0]).toBe(-80);
  expect(Array.from(axis.edges.slice(150))).toEqual(Array.from({ length: 151 }, (_, k) => 150 + k));
  expect(wide(40, 80)).toBeLessThan(wide(0, 30));
  expect(wide(146, 150)).toBeLessThan(1.15);
  for (let k = 0; k < 300; k++) expect(axis.edges[k + 1] - axis.edges[k]).toBeGreaterThan(0.3);
  for (let k = 1; k < 150; k++)
    expect(Math.abs(axis.edges[k + 1] - 2 * axis.edges[k] + axis.edges[k - 1])).toBeLessThan(0.08);
});

test('background can be drawn in as well', () => {
  const axis = drawnOut(new Float64Array(300).fill(1), { from: 150, to: 200 }, -50, 0);
  expect(axis.edges[0]).toBe(50);
  for (let k = 0; k < 300; k++) expect(axis.edges[k + 1]).toBeGreaterThan(axis.edges[k]);
  const { at } = readFrom(axis, 50, 250);
  expect(at[0]).toBeGreaterThanOrEqual(-0.5);
  expect(at[249]).toBe(299);
});

test('without a guard all of it is drawn out; without background there is nothing to draw', () => {
  const axis = drawnOut(new Float64Array(100).fill(1), null, 50, 50);
  expect(axis.edges[0]).toBe(-50);
  expect(axis.edges[100]).toBe(150);
  expect(axis.most).toBeLessThan(2.6);
  expect(() => drawnOut(new Float64Array(100), { from: 0, to: 50 }, 10, 0)).toThrow(/no background on that side/);
  const amounts = amountsOf(boxOf(SIZE), WIDER, { ...SUBJECT, x: 0 });
  expect(amountsInWords(amounts)).toMatch(/^nothing to draw out at the left, 1\.\d\d at the right$/);
});

test.each([
  [3, 8],
  [2, 16],
] as const)(
  'by inserted seams what is guarded keeps every bit, to all sides, %i channels of %i bit',
  (channels, depth) => {
    const source = picture(channels, depth);
    const onto: Box = { x: -50, y: -20, width: 420, height: 235 };
    const { out, patch, reason } = stretched(source, onto, { way: 'seams' });
    expect(reason).toMatch(/^Seams inserted, .* What is guarded is as it was, to the pixel\.$/);
    expect([patch.x, patch.y, patch.width, patch.height]).toEqual([onto.x, onto.y, onto.width, onto.height]);
    expect(crop(out, inOut(SUBJECT, onto)).data).toEqual(crop(source, SUBJECT).data);
    // Every px of it is one of the picture's own: no tone comes that was not there.
    const own = new Set(source.data);
    expect(out.data.every((v) => own.has(v))).toBe(true);
  },
);
