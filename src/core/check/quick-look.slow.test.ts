import type { Shape } from '../mask/shapes.ts';
import { emptyPatch } from '../raster/patch.ts';
import { createRaster, crop, type Box, type Raster } from '../raster/raster.ts';
import { DEFAULT_FILL } from '../repair/fill/settings.ts';
import type { FillSpec } from '../repair/spec.ts';
import { quickLook } from './quick-look.ts';

const SIZE = 240;
/** A soft dark disc on an even ground with grain. */
function spoilt(soft: number): Raster {
  const out = createRaster(SIZE, SIZE, 3, 8);
  let seed = 5;
  for (let y = 0, i = 0; y < SIZE; y++)
    for (let x = 0; x < SIZE; x++, i++) {
      seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff;
      const t = Math.min(1, Math.max(0, 0.5 - (Math.hypot(x - 120, y - 120) - 36) / soft));
      const v = 170 - 120 * t * t * (3 - 2 * t) + ((seed >> 12) % 100) / 25;
      out.data.fill(Math.round(v), 3 * i, 3 * i + 3);
    }
  return out;
}
const cover: Shape[] = [{ op: 'add', kind: 'brush', points: [[120, 120]], size: 72 }];
const specWith = (margin: number): FillSpec => ({
  method: 'fill',
  ...DEFAULT_FILL,
  style: 'first',
  seed: 1,
  cover,
  margin,
  feather: 0,
  donorArea: [],
  barred: [],
  avoid: [],
});

/** A patch of one tone over a disc. */
function patchOf(radius: number, tone: number) {
  const box: Box = { x: 120 - radius, y: 120 - radius, width: 2 * radius, height: 2 * radius };
  const patch = emptyPatch(box, { channels: 3, depth: 8 });
  for (let y = 0, o = 0; y < box.height; y++)
    for (let x = 0; x < box.width; x++, o += 4) {
      if (Math.hypot(x + 0.5 - radius, y + 0.5 - radius) > radius) continue;
      patch.data.fill(tone, o, o + 3);
      patch.data[o + 3] = 255;
    }
  return patch;
}
const look = (picture: Raster, margin: number, tone: number) =>
  quickLook({ width: SIZE, height: SIZE, read: (b) => crop(picture, b) }, specWith(margin), patchOf(36 + margin, tone));

test('a soft edge that runs on beyond the cover is told, with how far', () => {
  expect(look(spoilt(24), 2, 172)).toMatch(/edge runs on (8|9|10|11) px beyond/);
  expect(look(spoilt(24), 13, 172)).toBeNull();
});

test('a tone that is off is told, one that is right is not', () => {
  expect(look(spoilt(3), 4, 190)).toMatch(/tone is 1\d levels off/);
  expect(look(spoilt(3), 4, 172)).toBeNull();
});
