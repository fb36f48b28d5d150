import { rasterise, type Shape } from '../../mask/shapes.ts';
import { compositeOver } from '../../raster/patch.ts';
import { blur } from '../../raster/planes.ts';
import { createRaster, crop, type Raster } from '../../raster/raster.ts';
import { ciede2000, labOf } from '../../tone/lab.ts';
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
    // It does where it is not left out; one of each kind says so.
    if (style !== 'smooth' && style !== 'first') return;
    const blind = { ...spec(style), avoid: [] };
    const seen = filled(
      picture(() => 12),
      blind,
    );
    expect(Buffer.from(dark.data).equals(Buffer.from(seen.data))).toBe(false);
  },
);

/** Lab of a picture where some mask is, a little blurred. */
const labsWhere = (p: Raster, where: ArrayLike<number>) => {
  const planes = [0, 1, 2].map((c) =>
    blur(
      Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => p.data[3 * i + c]),
      WIDTH,
      HEIGHT,
      1.2,
    ),
  );
  return Array.from(planes[0], (_, i) => i)
    .filter((i) => where[i])
    .map((i) => labOf(planes[0][i], planes[1][i], planes[2][i]));
};

test('a fault comes out alike before and after its neighbour is treated: CIEDE2000 of 1 on average at most', () => {
  const dark = picture(() => 12);
  const { width, height } = dark;
  const laid = (p: Raster, s: FillSpec): Raster => {
    const out = { ...p, data: p.data.slice() };
    compositeOver(out, { x: 0, y: 0 }, filled(p, s), 1);
    return out;
  };
  const alone = { ...spec('first'), avoid: [], avoidMargin: undefined };
  const wire: FillSpec = { ...alone, cover: WIRE, avoid: DISC, margin: 1, style: 'faithful' };
  const before = laid(laid(dark, spec('first')), wire);
  const after = laid(laid(dark, wire), alone);
  const where = rasterise(DISC, { x: 0, y: 0, width, height }).data;
  const [a, b] = [before, after].map((p) => labsWhere(p, where));
  const mean = a.reduce((s, v, i) => s + ciede2000(v, b[i]), 0) / a.length;
  expect(mean).toBeLessThanOrEqual(1);
});

test('what lies under a neighbour is left to its own repair, unless that hides most of the fault', () => {
  const wild = picture((i) => (i * 7919) % 256);
  const alphaIn = (s: FillSpec) => {
    const patch = filled(wild, s);
    const under = rasterise(s.avoid, patch).data;
    let [left, laid, beside] = [0, 0, 0];
    for (let i = 0; i < under.length; i++) {
      const alpha = patch.data[i * patch.channels + patch.channels - 1];
      if (!under[i]) beside += Number(alpha > 0);
      else if (alpha) laid++;
      else left++;
    }
    return { left, laid, beside };
  };
  const plain = alphaIn(spec('first'));
  const sparing = alphaIn({ ...spec('first'), spares: true });
  expect(plain.laid).toBeGreaterThan(200);
  expect(sparing.laid).toBe(0);
  expect(sparing.beside).toBe(plain.beside);
  // The same disc under a wide stroke is filled whole, or nothing of it would go.
  const hidden: Shape[] = [{ ...WIRE[0], size: 60 } as Shape];
  expect(alphaIn({ ...spec('first'), avoid: hidden, spares: true }).laid).toBeGreaterThan(200);
});
