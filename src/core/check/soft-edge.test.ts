import { findingsOf } from './check.ts';
import { showing } from './order.ts';
import { signsOfRepair } from './repair.ts';
import { rasterise, type Point, type Shape } from '../mask/shapes.ts';
import { createRaster, crop, type Raster } from '../raster/raster.ts';
import { DEFAULT_FILL } from '../repair/fill/settings.ts';
import { renderRepair } from '../repair/registry.ts';
import type { FillSpec } from '../repair/spec.ts';
import { strandCover } from '../find/strand/strand-cover.ts';
import { traceStrand } from '../find/strand/strand.ts';

const SIZE = { width: 420, height: 120 };
/** A sky with grain and a blurred wire before it, 3 px across and soft by 1.5 px, with the pale halo that a camera's sharpening leaves. */
function wire(): Raster {
  const out = createRaster(SIZE.width, SIZE.height, 3, 8);
  let seed = 9;
  for (let y = 0, i = 0; y < SIZE.height; y++)
    for (let x = 0; x < SIZE.width; x++, i++) {
      seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff;
      const d = (y + 0.5 - 40 - 0.1 * x) / Math.hypot(1, 0.1);
      const shows = Math.exp(-(d * d) / (2 * 2.1 ** 2)) - 0.12 * Math.exp(-(d * d) / (2 * 4.5 ** 2));
      out.data.fill(Math.round(170 - 110 * shows + ((seed >> 12) % 100) / 40), 3 * i, 3 * i + 3);
    }
  return out;
}
const line = (x: number): Point => [x, 40 + 0.1 * x];
const fill = (cover: Shape[], margin: number): FillSpec => ({
  method: 'fill',
  ...DEFAULT_FILL,
  style: 'faithful',
  seed: 1,
  cover,
  margin,
  feather: 0,
  donorArea: [],
  barred: [],
  avoid: [],
});
const seen = (picture: Raster, spec: FillSpec) => {
  const beneath = { ...SIZE, read: (box: Parameters<typeof crop>[1]) => crop(picture, box) };
  return findingsOf(signsOfRepair(beneath, spec, renderRepair(beneath, spec).patch), SIZE.width);
};

test('a wire that was covered too tightly leaves a ghost, which is called that and asks for a wider margin', () => {
  const picture = wire();
  const tight: Shape = { op: 'add', kind: 'outline', points: [line(20), line(400), [400, 83], [20, 45]] };
  const found = seen(picture, fill([tight], 1));
  const worst = showing(found)!;
  expect([worst.kind, worst.remedy]).toEqual(['leftover', 'widen-margin']);
});

test('a traced wire is covered as far as anything of it is seen, its halo too', () => {
  const picture = wire();
  const strand = traceStrand(picture, [line(20), line(400)]);
  expect(strand.width).toBeLessThan(6);
  const cover = strandCover(strand);
  const { data } = rasterise(cover, { x: 210, y: 0, width: 1, height: SIZE.height });
  expect(data.filter((v) => v > 0).length).toBeGreaterThanOrEqual(12);
  expect(seen(picture, fill(cover, 1)).filter((f) => f.kind === 'leftover')).toEqual([]);
});
