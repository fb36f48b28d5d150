import { crop, createRaster, type Raster } from '../../raster/raster.ts';
import type { FillSpec } from '../spec.ts';
import { DEFAULT_FILL } from './settings.ts';
import { sketchFill } from './sketch.ts';

const [W, H] = [900, 700];
let state = 3;
const random = () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 4294967296;
/** Sky over ground, parted by a level border. */
const picture: Raster = createRaster(W, H, 3, 8);
for (let i = 0; i < W * H; i++) {
  const v = 16 * (random() - 0.5);
  picture.data.set(Math.floor(i / W) < 350 ? [150 + v, 170 + v, 210 + v] : [80 + v, 90 + v, 50 + v], 3 * i);
}
const beneath = { width: W, height: H, read: (box: Parameters<typeof crop>[1]) => crop(picture, box) };
const spec = (radius: number, more: Partial<FillSpec> = {}): FillSpec => ({
  method: 'fill',
  cover: [{ op: 'add', kind: 'box', x: 450 - radius, y: 350 - radius, width: 2 * radius, height: 2 * radius }],
  margin: 4,
  feather: 2,
  donorArea: [],
  barred: [],
  avoid: [],
  ...DEFAULT_FILL,
  style: 'first',
  ...more,
});

describe('a sketch of a fill', () => {
  it('lies where the cover is, with the grounds where they will be', () => {
    const patch = sketchFill(beneath, spec(120))!;
    expect(patch).toMatchObject({ channels: 4, depth: 8 });
    expect(patch.x).toBeGreaterThanOrEqual(324);
    expect(patch.x + patch.width).toBeLessThanOrEqual(576);
    const at = (x: number, y: number) => {
      const o = 4 * ((y - patch.y) * patch.width + x - patch.x);
      return [...patch.data.subarray(o, o + 4)];
    };
    for (const x of [360, 450, 540]) {
      const [above, below] = [at(x, 270), at(x, 430)];
      expect(above[3]).toBe(255);
      expect(Math.abs(above[2] - 210)).toBeLessThan(12);
      expect(Math.abs(below[2] - 50)).toBeLessThan(12);
    }
    // The feather falls off.
    expect(at(patch.x, 350)[3]).toBeLessThan(255);
  });

  it('keeps off what is barred', () => {
    // All sky but a stretch far left is barred; then no sky can be laid from beside.
    const barred: FillSpec['barred'] = [{ op: 'add', kind: 'box', x: 0, y: 345, width: W, height: H }];
    const patch = sketchFill(beneath, spec(120, { barred }))!;
    const o = 4 * ((430 - patch.y) * patch.width + 450 - patch.x);
    expect(patch.data[o + 2]).toBeGreaterThan(120);
  });

  it('is left out where the fill itself is as quick, or is no layout', () => {
    expect(sketchFill(beneath, spec(40))).toBeNull();
    expect(sketchFill(beneath, spec(120, { style: 'near' }))).toBeNull();
    expect(sketchFill(beneath, spec(120, { cover: [] }))).toBeNull();
  });
});
