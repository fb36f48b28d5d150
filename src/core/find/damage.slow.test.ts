import { rasterise } from '../mask/shapes.ts';
import { createRaster, fullScale, type Channels, type Depth, type Raster } from '../raster/raster.ts';
import { creases } from './finders/creases.ts';
import { gaps } from './finders/gaps.ts';
import { lumaPlane } from '../raster/luma.ts';
import { stains, tears } from './finders/stains-and-tears.ts';
import { scuffs } from './finders/scuffs.ts';
import { groupsOf, isPrint, paperOf, smallPicture } from './finders/blobs.ts';
import type { Find, Finder, FindInput } from './find.ts';

let seed = 5;
const random = () => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 4294967296;

type Colour = readonly [number, number, number];

function painted(
  width: number,
  height: number,
  paint: (x: number, y: number) => Colour,
  depth: Depth = 8,
  channels: Channels = 3,
): Raster {
  const picture = createRaster(width, height, channels, depth);
  const unit = fullScale(depth) / 255;
  for (let i = 0; i < width * height; i++) {
    const colour = paint(i % width, Math.floor(i / width));
    for (let c = 0; c < channels; c++)
      picture.data[i * channels + c] = Math.round(Math.min(255, Math.max(0, colour[c])) * unit);
  }
  return picture;
}

const run = (finder: Finder, picture: Raster, more: Partial<FindInput> = {}): Find[] =>
  finder.find({ picture, luma: lumaPlane(picture), ...more });
const sure = (finds: Find[]) => finds.filter((f) => f.score >= 0.5);

const [W, H] = [450, 330];
const border = 30;

/** A sepia print with a white border; `damage` paints over it, or returns null. */
const print = (damage: (x: number, y: number) => Colour | null = () => null, depth: Depth = 8): Raster =>
  painted(
    W,
    H,
    (x, y) => {
      const hurt = damage(x, y);
      if (hurt) return hurt;
      const inside = x >= border && y >= border && x < W - border && y < H - border;
      const v = inside
        ? 115 + 28 * Math.sin(x * 0.025) * Math.cos(y * 0.03) + 6 * (random() - 0.5)
        : 234 + 3 * (random() - 0.5);
      return [v, v * 0.96, v * 0.87];
    },
    depth,
  );

/** Share of the places that lie in a find's cover. */
const covers = (find: Find, places: Array<readonly [number, number]>) =>
  places.filter(([x, y]) => rasterise(find.shapes, { x, y, width: 1, height: 1 }).data[0]).length / places.length;

describe('a print', () => {
  test('is told by its one tint and its paper', () => {
    const small = smallPicture(print(), 240);
    expect(isPrint(small)).toBe(true);
    expect(paperOf(small).share).toBeGreaterThan(0.9);
    const meadow = painted(W, H, (x, y) => (y < 200 ? [120, 160, 220] : [70 + 40 * Math.sin(x * 0.2), 140, 40]));
    expect(isPrint(smallPicture(meadow, 240))).toBe(false);
  });

  test('made small keeps its mean tone, whatever its depth', () => {
    const plain = (depth: Depth) => painted(500, 300, () => [128, 128, 128], depth);
    for (const depth of [8, 16] as const) {
      const small = smallPicture(plain(depth), 100);
      expect([small.width, small.height, small.scale]).toEqual([100, 60, 5]);
      // CIELAB of sRGB 128: L* 53.59, by the published formulas (CIE 15, IEC 61966-2-1).
      for (const at of [0, 2500, 5999]) {
        expect(small.L[at]).toBeCloseTo(53.59, 1);
        expect(Math.abs(small.a[at]) + Math.abs(small.b[at])).toBeLessThan(0.05);
      }
    }
  });
});

describe('tears and missing corners', () => {
  const gone = (x: number, y: number) => x + y < 110;
  test.each([8, 16] as const)('a missing corner is covered, at %i bit', (depth) => {
    const finds = sure(
      run(
        tears,
        print((x, y) => (gone(x, y) ? [52, 55, 60] : null), depth),
      ),
    );
    expect(finds).toHaveLength(1);
    const places = Array.from({ length: 200 }, (_, n) => [(n % 20) * 5 + 2, Math.floor(n / 20) * 5 + 2] as const);
    const [within, without] = [
      places.filter(([x, y]) => x + y < 100),
      places.filter(([x, y]) => x + y > 122 && y < 110),
    ];
    expect(covers(finds[0], within)).toBeGreaterThan(0.97);
    expect(covers(finds[0], without)).toBeLessThan(0.03);
    expect(finds[0].contrast).toBeLessThan(-50);
  });

  test('a whole print has none, nor has a picture without a border', () => {
    expect(sure(run(tears, print()))).toEqual([]);
    const bare = painted(W, H, (x, y) => (gone(x, y) ? [52, 55, 60] : [100 + 50 * Math.sin(x * 0.1), 120, 90]));
    expect(run(tears, bare)).toEqual([]);
  });
});

describe('stains', () => {
  const spot = (x: number, y: number) => Math.hypot((x - 280) / 45, (y - 190) / 34) < 1;
  test('a patch of another tint is found where it is', () => {
    const stained = print((x, y) => (spot(x, y) ? [118 + 5 * (random() - 0.5), 96, 62] : null));
    const [stain, ...more] = sure(run(stains, stained));
    expect(more).toEqual([]);
    expect(Math.abs(stain.box.x + stain.box.width / 2 - 280)).toBeLessThan(12);
    expect(Math.abs(stain.box.width - 90)).toBeLessThan(26);
    expect(Math.abs(stain.box.height - 68)).toBeLessThan(22);
  });

  test('what is only darker or lighter is none: that is the picture', () => {
    const shaded = print((x, y) => {
      const v = 70 + 5 * (random() - 0.5);
      return spot(x, y) ? [v, v * 0.96, v * 0.87] : null;
    });
    expect(sure(run(stains, shaded))).toEqual([]);
  });
});

describe('creases', () => {
  const fold = (from: number, to: number) => (x: number, y: number) =>
    x >= from && x <= to && Math.abs(y - 160 - 0.04 * x) < 3 ? ([245, 240, 228] as const) : null;
  test('a fold from edge to edge is followed', () => {
    const [crease] = sure(run(creases, print(fold(0, W))));
    expect(crease.length).toBeGreaterThan(0.9 * W);
    const line = Array.from({ length: 40 }, (_, n) => [15 + n * 10, Math.round(160 + 0.04 * (15 + n * 10))] as const);
    expect(covers(crease, line)).toBeGreaterThan(0.9);
    expect(crease.contrast).toBeGreaterThan(0);
  });

  test('a short line in the middle of the print is none', () => {
    expect(sure(run(creases, print(fold(180, 255))))).toEqual([]);
  });
});

describe('gaps', () => {
  const noisy = (x: number, y: number): Colour => [(x * 37 + y * 11) % 200, (x * 13 + y * 7) % 200, 90];
  test.each([8, 16] as const)('strips of one colour on every side, at %i bit', (depth) => {
    const edge = (x: number, y: number) => x < 7 || y < 5 || x >= 100 - 3 || y >= 80 - 9;
    const finds = run(
      gaps,
      painted(100, 80, (x, y) => (edge(x, y) ? [10, 10, 10] : noisy(x, y)), depth),
    );
    expect(finds.map((f) => f.box)).toEqual([
      { x: 0, y: 0, width: 100, height: 5 },
      { x: 0, y: 71, width: 100, height: 9 },
      { x: 0, y: 5, width: 7, height: 66 },
      { x: 97, y: 5, width: 3, height: 66 },
    ]);
    expect(finds.every((f) => f.kind === 'gap')).toBe(true);
  });

  test('a single row is no gap, and a picture of one colour is not all gap', () => {
    expect(
      run(
        gaps,
        painted(100, 80, (x, y) => (y < 1 ? [0, 0, 0] : noisy(x, y))),
      ),
    ).toEqual([]);
    expect(
      run(
        gaps,
        painted(100, 80, () => [40, 40, 40]),
      ),
    ).toEqual([]);
  });
});

describe('scuffs', () => {
  const cloth = (mark: (x: number, y: number) => number) =>
    painted(360, 260, (x, y) => {
      const fall = 1 - 0.3 * (((x - 150) / 360) ** 2 + ((y - 110) / 260) ** 2);
      const v = (120 + 6 * Math.sin(x * 0.8) * Math.sin(y * 0.8) + 4 * (random() - 0.5)) * fall + mark(x, y);
      return [v, v, v];
    });
  const backdrop = [{ op: 'add' as const, kind: 'box' as const, x: 8, y: 8, width: 344, height: 244 }];
  const smear = (x: number, y: number) => (Math.hypot((x - 230) / 18, (y - 150) / 6) < 1 ? 16 : 0);

  test('are found light and dark, and tell which they are', () => {
    for (const sign of [1, -1]) {
      const finds = sure(
        run(
          scuffs,
          cloth((x, y) => sign * smear(x, y)),
          { backdrop },
        ),
      );
      expect(finds.length).toBeGreaterThanOrEqual(1);
      const [first] = finds;
      expect(
        Math.hypot(first.box.x + first.box.width / 2 - 230, first.box.y + first.box.height / 2 - 150),
      ).toBeLessThan(9);
      expect(Math.sign(first.contrast)).toBe(sign);
    }
  });

  test('only on the backdrop', () => {
    const elsewhere = [{ ...backdrop[0], width: 150 }];
    expect(sure(run(scuffs, cloth(smear), { backdrop: elsewhere }))).toEqual([]);
    expect(run(scuffs, cloth(smear), { backdrop: [] })).toEqual([]);
  });
});

test('groups of marked pixels, the largest first, joined over corners', () => {
  const marked = new Uint8Array(30 * 20);
  for (const [x, y] of [
    [2, 2],
    [3, 3],
    [4, 4],
    [20, 10],
    [20, 11],
    [29, 19],
  ])
    marked[y * 30 + x] = 1;
  expect(groupsOf(marked, 30, 20).map((g) => ({ box: g.box, area: g.area }))).toEqual([
    { box: { x: 2, y: 2, width: 3, height: 3 }, area: 3 },
    { box: { x: 20, y: 10, width: 1, height: 2 }, area: 2 },
    { box: { x: 29, y: 19, width: 1, height: 1 }, area: 1 },
  ]);
  expect(groupsOf(new Uint8Array(600), 30, 20)).toEqual([]);
});
