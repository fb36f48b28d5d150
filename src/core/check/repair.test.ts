import { emptyPatch, type Patch } from '../raster/patch.ts';
import { createRaster, crop, type Box, type Raster } from '../raster/raster.ts';
import { DEFAULT_FILL } from '../repair/fill/settings.ts';
import type { FillSpec } from '../repair/spec.ts';
import { signsOfRepair } from './repair.ts';

const SIZE = 200;
/** An even ground with grain, and a dark disc of some radius. */
function picture(radius: number): Raster {
  const out = createRaster(SIZE, SIZE, 3, 8);
  let seed = 5;
  for (let y = 0, i = 0; y < SIZE; y++)
    for (let x = 0; x < SIZE; x++, i++) {
      seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff;
      const v = (Math.hypot(x - 100, y - 100) < radius ? 50 : 160) + ((seed >> 12) % 100) / 12;
      out.data.fill(Math.round(v), 3 * i, 3 * i + 3);
    }
  return out;
}
const spec: FillSpec = {
  method: 'fill',
  ...DEFAULT_FILL,
  style: 'first',
  seed: 1,
  cover: [],
  margin: 0,
  feather: 0,
  donorArea: [],
  barred: [],
  avoid: [],
};
/** A patch over a disc that takes its px from a clean ground, changed by a function. */
function patchOf(clean: Raster, radius: number, change: (v: number) => number): Patch {
  const box: Box = { x: 100 - radius, y: 100 - radius, width: 2 * radius, height: 2 * radius };
  const patch = emptyPatch(box, { channels: 3, depth: 8 });
  for (let y = 0, o = 0; y < box.height; y++)
    for (let x = 0; x < box.width; x++, o += 4) {
      if (Math.hypot(x + 0.5 - radius, y + 0.5 - radius) > radius) continue;
      const from = 3 * ((box.y + y) * SIZE + box.x + x);
      for (let c = 0; c < 3; c++) patch.data[o + c] = change(clean.data[from + c]);
      patch.data[o + 3] = 255;
    }
  return patch;
}
const kindsOf = (beneath: Raster, patch: Patch, set: Partial<FillSpec> = {}) => [
  ...new Set(
    signsOfRepair({ width: SIZE, height: SIZE, read: (b) => crop(beneath, b) }, { ...spec, ...set }, patch).map(
      (s) => s.kind,
    ),
  ),
];
const clean = picture(0);

test('a repair that cannot be told from its ground gives nothing away', () => {
  expect(
    kindsOf(
      picture(30),
      patchOf(clean, 34, (v) => v),
    ),
  ).toEqual([]);
});

test('a tone that is off, and grain that is lost, are told', () => {
  expect(
    kindsOf(
      picture(30),
      patchOf(clean, 34, (v) => v + 22),
    ),
  ).toContain('tone-step');
  expect(
    kindsOf(
      picture(30),
      patchOf(clean, 34, () => 164),
    ),
  ).toContain('lost-grain');
});

test('what is left of a thing beside its cover is told, unless it belongs to another open fault', () => {
  const left = patchOf(clean, 34, (v) => v);
  expect(kindsOf(picture(38), left)).toContain('leftover');
  const others = [{ op: 'add' as const, kind: 'box' as const, x: 0, y: 0, width: SIZE, height: SIZE }];
  expect(kindsOf(picture(38), left, { avoid: others })).toEqual([]);
});

test('a soft edge that runs on beyond its cover is told with how far, though nothing jumps there', () => {
  const soft = createRaster(SIZE, SIZE, 3, 8);
  for (let y = 0, i = 0; y < SIZE; y++)
    for (let x = 0; x < SIZE; x++, i++) {
      const t = Math.min(1, Math.max(0, 0.5 - (Math.hypot(x - 100, y - 100) - 36) / 24));
      const grain = (((i * 2654435761) >>> 9) % 12) - 6;
      soft.data.fill(Math.round(170 - 120 * t * t * (3 - 2 * t) + grain), 3 * i, 3 * i + 3);
    }
  const cover = [{ op: 'add' as const, kind: 'brush' as const, points: [[100, 100] as [number, number]], size: 72 }];
  const beneath = { width: SIZE, height: SIZE, read: (b: Box) => crop(soft, b) };
  const told = (margin: number) =>
    signsOfRepair(
      beneath,
      { ...spec, cover, margin },
      patchOf(soft, 36 + margin, (v) => v),
    ).filter((s) => s.unit.includes('soft edge'));
  expect(told(2).map((s) => [s.kind, Math.abs(s.figure - 10) < 2.5])).toEqual([['leftover', true]]);
  expect(told(14)).toEqual([]);
});

test('layers that came with a file, and covers of nothing, are not judged', () => {
  const given = { method: 'given' as const, index: 0, box: { x: 0, y: 0, width: 9, height: 9 } };
  const all = { width: SIZE, height: SIZE, read: (b: Box) => crop(clean, b) };
  expect(
    signsOfRepair(
      all,
      given,
      patchOf(clean, 34, () => 0),
    ),
  ).toEqual([]);
  expect(signsOfRepair(all, spec, emptyPatch({ x: 0, y: 0, width: 0, height: 0 }, clean))).toEqual([]);
});
