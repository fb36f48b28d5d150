import type { Shape } from '../../mask/shapes.ts';
import { createRaster, crop, type Raster } from '../../raster/raster.ts';
import { renderRepair } from '../registry.ts';
import type { FillSpec } from '../spec.ts';
import { DEFAULT_FILL, type FillStyle } from './settings.ts';

const WIDTH = 260;
const HEIGHT = 220;
const DISC: Shape[] = [{ op: 'add', kind: 'brush', points: [[130, 110]], size: 46 }];
/** A wire across the disc's rim and on through the picture. */
const WIRE: Shape[] = [
  {
    op: 'add',
    kind: 'strand',
    points: [
      [-5, 60],
      [130, 96],
      [265, 70],
    ],
    size: 6,
  },
];

/** Two grounds with waves and grain; `under` gives what stands where the wire is. */
function picture(under: (i: number) => number): Raster {
  const out = createRaster(WIDTH, HEIGHT, 3, 8);
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++) {
      const ground = y > 140 + 8 * Math.sin(x / 40) ? 70 : 170;
      for (let c = 0; c < 3; c++)
        out.data[3 * i + c] = ground + 10 * c + 12 * Math.sin(x / 9 + y / 13) + ((i * 2654435761) % 7);
    }
  const wide = 6;
  for (let x = 0; x < WIDTH; x++) {
    const y = x < 130 ? 60 + (36 * (x + 5)) / 135 : 96 - (26 * (x - 130)) / 135;
    for (let v = Math.ceil(y - wide / 2); v < y + wide / 2; v++)
      for (let c = 0; c < 3; c++) out.data[3 * (v * WIDTH + x) + c] = under(v * WIDTH + x);
  }
  return out;
}

const spec = (style: FillStyle): FillSpec => ({
  method: 'fill',
  ...DEFAULT_FILL,
  cover: DISC,
  margin: 2,
  feather: 0,
  donorArea: [],
  barred: [],
  avoid: WIRE,
  avoidMargin: 1.5,
  seed: 3,
  style,
});
const filled = (p: Raster, s: FillSpec) =>
  renderRepair({ width: WIDTH, height: HEIGHT, read: (box) => crop(p, box) }, s).patch;

test.each<FillStyle>(['faithful', 'smooth', 'textured', 'first', 'second', 'third', 'near', 'far', 'lines'])(
  '%s: what stands where another fault is makes no difference to a single bit',
  (style) => {
    const dark = filled(
      picture(() => 12),
      spec(style),
    );
    const wild = filled(
      picture((i) => (i * 7919) % 256),
      spec(style),
    );
    expect(Buffer.from(dark.data).equals(Buffer.from(wild.data))).toBe(true);
    // It does where it is not left out.
    const blind = { ...spec(style), avoid: [] };
    const seen = filled(
      picture(() => 12),
      blind,
    );
    expect(Buffer.from(dark.data).equals(Buffer.from(seen.data))).toBe(false);
  },
);
