import { createRaster, type Box, type Raster } from '../raster/raster.ts';
import type { Patch } from '../raster/patch.ts';
import { renderRepair, readBox, shiftSpec } from '../repair/registry.ts';
import type { CopySpec, FillSpec, PatchSpec, RepairSpec } from '../repair/spec.ts';
import { baseOf, beneathOf, extentOf, pictureOf } from './chain.ts';
import { canvas } from './canvas.ts';
import type { StepSpec } from './registry.ts';
import { retouch } from './retouch.ts';
import { chained, fillGap, mapped, needed, PASS_THROUGH, pixelsOf } from './step.ts';

/** A picture whose every pixel is another, so that none can be mistaken for its neighbour. */
function numbered(
  width: number,
  height: number,
  channels: Raster['channels'] = 3,
  depth: Raster['depth'] = 16,
): Raster {
  const out = createRaster(width, height, channels, depth);
  for (let i = 0; i < out.data.length; i++) out.data[i] = (i * 7919) % (depth === 16 ? 65521 : 251);
  return out;
}

/** A patch of one colour and full cover. */
function plain(box: Box, value: number, channels: Patch['channels'] = 4, depth: Patch['depth'] = 16): Patch {
  const count = box.width * box.height * channels;
  const data = depth === 16 ? new Uint16Array(count) : new Uint8Array(count);
  const top = depth === 16 ? 65535 : 255;
  for (let i = 0; i < count; i++) data[i] = i % channels === channels - 1 ? top : value;
  return { ...box, channels, depth, data };
}

const at = ({ width, channels, data }: Raster, x: number, y: number) =>
  Array.from(data.subarray((y * width + x) * channels, (y * width + x + 1) * channels));

const SOURCE = numbered(40, 30);
const GROWN: StepSpec = { step: 'canvas', box: { x: -12, y: 3, width: 40, height: 20 } };

describe('a chain of steps', () => {
  test('without steps gives the source, whatever part of it is read', () => {
    const picture = pictureOf(SOURCE, [], []);
    expect(picture.extent).toEqual({ x: 0, y: 0, width: 40, height: 30 });
    expect(picture.read(picture.extent).data).toEqual(SOURCE.data);
    expect(at(picture.read({ x: 7, y: 9, width: 5, height: 4 }), 3, 2)).toEqual(at(SOURCE, 10, 11));
    expect(picture.gap(picture.extent)).toBeNull();
  });

  test('a canvas cuts on one side and reaches beyond the source on the other; every pixel stays where it is', () => {
    const picture = pictureOf(SOURCE, [GROWN], []);
    expect(extentOf(SOURCE, [GROWN])).toEqual(GROWN.box);
    const seen = picture.read(GROWN.box);
    expect([seen.width, seen.height]).toEqual([40, 20]);
    for (const [x, y] of [[0, 3], [27, 3], [0, 22], [13, 14], [27, 22]])
      expect(at(seen, x + 12, y - 3)).toEqual(at(SOURCE, x, y)); // prettier-ignore
    expect(at(seen, 11, 0)).toEqual([32768, 32768, 32768]);
    const gap = picture.gap(GROWN.box)!;
    expect(gap.reduce((sum, v) => sum + v, 0)).toBe(12 * 20);
    expect([gap[0], gap[11], gap[12], gap[19 * 40 + 11], gap[19 * 40 + 12]]).toEqual([1, 1, 0, 1, 0]);
  });

  test('gaps are clear where there is alpha, and repairs in them are not', () => {
    const source = numbered(20, 10, 4, 8);
    const box = { x: -4, y: 0, width: 4, height: 10 };
    const bare = pictureOf(source, [{ step: 'canvas', box }], []).read(box);
    expect(at(bare, 1, 1)).toEqual([128, 128, 128, 0]);
    const patch = plain({ x: -3, y: 2, width: 6, height: 3 }, 200, 4, 8);
    const mended = pictureOf(source, [], [{ patch, strength: 1 }]).read({ x: -4, y: 0, width: 12, height: 10 });
    expect(at(mended, 1, 2)).toEqual([200, 200, 200, 255]);
    expect(at(mended, 0, 2)).toEqual([128, 128, 128, 0]);
    // Beside the gap the picture's own alpha stays as it is.
    expect(at(mended, 4, 2)).toEqual([200, 200, 200, at(source, 0, 2)[3]]);
  });

  test('retouch reaches as far as its patches; what they cover is no gap', () => {
    const patch = plain({ x: -5, y: 1, width: 8, height: 4 }, 1000);
    const base = baseOf(SOURCE, [], [{ patch, strength: 0.5 }]);
    expect(base.extent).toEqual({ x: -5, y: 0, width: 45, height: 30 });
    const box = { x: -6, y: 1, width: 7, height: 4 };
    const row = Array.from(base.gap(box)!.subarray(0, 7));
    expect(row).toEqual([1, 0, 0, 0, 0, 0, 0]);
    const [red] = at(SOURCE, 0, 1);
    expect(at(base.read(box), 6, 0)[0]).toBe(Math.round(red + (1000 - red) * 0.5));
    expect(baseOf(SOURCE, [], [{ patch, strength: 0 }]).gap(box)![1]).toBe(1);
  });

  test('steps say what they need and where places go; one after another', () => {
    const steps = [PASS_THROUGH, retouch([]), canvas(GROWN.box), PASS_THROUGH];
    expect(needed(steps, { x: -3, y: 5, width: 9, height: 2 })).toEqual({ x: -3, y: 5, width: 9, height: 2 });
    expect(mapped(steps, [-3, 5])).toEqual([-3, 5]);
    expect(chained(pixelsOf(SOURCE), steps).extent).toEqual(GROWN.box);
  });
});

describe('a repair on a grown canvas', () => {
  const canvasBox = { x: -16, y: 0, width: 56, height: 30 };
  const stroke = {
    points: [
      [-8, 12, 1],
      [-5, 12, 1],
    ] as Array<[number, number, number]>,
    size: 5,
    hardness: 1,
    flow: 1,
    opacity: 1,
    spacing: 0.2,
    pressure: 'none' as const,
  };
  const pose = { turn: 0, scale: 1, mirror: 'none' as const, travels: true };
  const copy: CopySpec = {
    method: 'copy',
    canvas: canvasBox,
    strokes: [stroke],
    donor: { ...pose, from: [20, 12], at: [-8, 12] },
  };
  const render = (spec: RepairSpec, source = SOURCE) => renderRepair(beneathOf(source, [], spec), spec).patch;

  test('puts the donor’s pixels where they belong, left of the source', () => {
    const patch = render(copy);
    expect(patch.x).toBeLessThan(-8);
    const [u, v] = [-7 - patch.x, 12 - patch.y];
    expect(at(patch, u, v)).toEqual([...at(SOURCE, 21, 12), 65535]);
  });

  test('takes nothing from a gap', () => {
    const patch = render({ ...copy, donor: { ...copy.donor, from: [2, 12] } });
    // The donor’s middle lies 2 px right of the source’s edge: what would come from its left is left out.
    const alphas = Array.from({ length: 9 }, (_, n) => at(patch, -12 + n - patch.x, 12 - patch.y)[3]);
    expect(alphas.slice(0, 2)).toEqual([0, 0]);
    expect(alphas[4]).toBe(65535);
  });

  test('reads what it says, in the area that it knows of', () => {
    const box = readBox(copy, canvasBox);
    expect(box.x).toBeLessThanOrEqual(-10);
    expect(box.x + box.width).toBeGreaterThanOrEqual(25);
    expect(readBox({ ...copy, canvas: undefined }, { x: 0, y: 0, width: 40, height: 30 }).width).toBe(0);
  });

  test('is the same as one on a picture that had these pixels from the beginning', () => {
    // The same picture, once with its corner at 0, 0 and once as a source that begins 16 px further right.
    const whole = numbered(56, 30);
    const source = createRaster(40, 30, 3, 16);
    for (let y = 0; y < 30; y++) source.data.set(whole.data.subarray((y * 56 + 16) * 3, (y * 56 + 56) * 3), y * 40 * 3);
    const left: Patch = { ...plain({ x: -16, y: 0, width: 16, height: 30 }, 0), data: new Uint16Array(16 * 30 * 4) };
    for (let y = 0; y < 30; y++)
      for (let x = 0; x < 16; x++) left.data.set([...at(whole, x, y), 65535], (y * 16 + x) * 4);
    const spec: PatchSpec = {
      method: 'patch',
      canvas: canvasBox,
      cover: [{ op: 'add', kind: 'box', x: -6, y: 8, width: 9, height: 7 }],
      feather: 2,
      blended: true,
      donor: { ...pose, turn: 20, from: [24, 14], at: [-2, 11] },
    };
    const here = renderRepair(beneathOf(source, [{ patch: left, strength: 1 }], spec), spec).patch;
    const there = shiftSpec({ ...spec, canvas: undefined }, 16, 0);
    const plainly = renderRepair(beneathOf(whole, [], there), there).patch;
    expect([here.x + 16, here.y, here.width, here.height]).toEqual([
      plainly.x,
      plainly.y,
      plainly.width,
      plainly.height,
    ]);
    expect(here.data).toEqual(plainly.data);
  });

  test('fills a gap from the picture beside it, and nothing of the gap comes along', () => {
    const size = { width: 120, height: 90 };
    const source = createRaster(size.width, size.height, 1, 8);
    for (let y = 0; y < 90; y++)
      for (let x = 0; x < 120; x++) source.data[y * 120 + x] = 40 + (y * 60) / 90 + ((x * 37 + y * 61) % 9);
    const box = { x: -24, y: 0, width: 144, height: 90 };
    const spec: FillSpec = {
      method: 'fill',
      canvas: box,
      cover: [{ op: 'add', kind: 'box', x: -24, y: 20, width: 24, height: 30 }],
      margin: 0,
      feather: 0,
      donorArea: [],
      barred: [],
      avoid: [],
      seed: 1,
      style: 'first',
      tone: 'strong',
      turn: false,
      scale: false,
      mirror: false,
    };
    const patch = render(spec, source);
    expect([patch.x, patch.y, patch.width, patch.height]).toEqual([-24, 20, 24, 30]);
    // Gaps are read as 128; the picture has 40 to 110.
    for (let i = 0; i < patch.data.length; i += 2) {
      expect(patch.data[i + 1]).toBe(255);
      expect(patch.data[i]).toBeLessThan(112);
    }
    const mean = (y: number) => Array.from({ length: 24 }, (_, x) => at(patch, x, y)[0]).reduce((a, b) => a + b) / 24;
    expect(Math.abs(mean(0) - (44 + (20 * 60) / 90))).toBeLessThan(6);
    expect(Math.abs(mean(29) - (44 + (49 * 60) / 90))).toBeLessThan(6);
  });
});

test('a gap is mid grey at either depth', () => {
  expect(at(fillGap(2, 2, { channels: 1, depth: 8 }), 1, 1)).toEqual([128]);
  expect(at(fillGap(2, 2, { channels: 2, depth: 16 }), 1, 1)).toEqual([32768, 0]);
});
