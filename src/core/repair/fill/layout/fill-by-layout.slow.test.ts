import { createRaster, type Raster } from '../../../raster/raster.ts';
import { lookAround } from '../grounds/division.ts';
import { findPlane } from '../grounds/plane.ts';
import { fillByLayout } from './fill-by-layout.ts';
import { prepare, windowOf } from './prepare.ts';

const [W, H] = [240, 180];
const randomiser = (seed: number) => {
  let state = seed;
  return () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 4294967296;
};

/** A picture by tone, with grain, and a round cover in its middle under which nothing of it is left. */
function scene(tone: (x: number, y: number) => number, radius = 30) {
  const random = randomiser(9);
  const truth = createRaster(W, H, 3, 8);
  const cover = new Uint8Array(W * H);
  for (let i = 0; i < W * H; i++) {
    const [x, y] = [i % W, Math.floor(i / W)];
    const v = tone(x, y) + 12 * (random() - 0.5);
    truth.data.set([v, 0.9 * v, 0.8 * v], 3 * i);
    if (Math.hypot(x - W / 2, y - H / 2) < radius) cover[i] = 1;
  }
  const picture: Raster = { ...truth, data: truth.data.slice() };
  cover.forEach((v, i) => v && picture.data.set([255, 0, 255], 3 * i));
  return { truth, picture, cover, allowed: cover.map((v) => 1 - v) };
}
const fill = (s: ReturnType<typeof scene>, rank = 0) => fillByLayout(s, { seed: 1, rank, tone: 1 });
const farOff = ({ truth, cover }: ReturnType<typeof scene>, filled: Raster, more: number) => {
  let [off, all] = [0, 0];
  cover.forEach((v, i) => {
    if (!v) return;
    all++;
    if (Math.abs(filled.data[3 * i] - truth.data[3 * i]) > more) off++;
  });
  return off / all;
};

describe('a wide cover before two grounds', () => {
  const hill = (x: number) => H / 2 - 8 + ((x - W / 2) / 22) ** 2;
  const before = scene((x, y) => (y < hill(x) ? 190 : 80));

  test('their border is followed outside and carried on, bent as it is', () => {
    const { levels, at } = prepare(windowOf(before));
    const { arcs, division } = lookAround(levels, at, 53);
    expect(arcs).toBe(2);
    expect(division!.means).toHaveLength(2);
    const { window } = prepare(windowOf(before));
    const sky = division!.groundAt(W / 2 - window.x, 40 - window.y);
    for (let x = W / 2 - 28; x <= W / 2 + 28; x += 4) {
      expect(division!.groundAt(x - window.x, hill(x) - 2.5 - window.y)).toBe(sky);
      expect(division!.groundAt(x - window.x, hill(x) + 2.5 - window.y)).not.toBe(sky);
    }
  });

  test('each ground is filled from its own kind, and nothing is mixed', () => {
    const { picture, kind, grounds } = fill(before);
    expect([kind, grounds]).toEqual(['divided', 2]);
    expect(farOff(before, picture, 40)).toBeLessThan(0.03);
  });

  test('nothing outside the cover changes, and the same seed gives the same bytes', () => {
    const [a, b] = [fill(before).picture, fill(before).picture];
    expect(Buffer.from(a.data.buffer).equals(Buffer.from(b.data.buffer))).toBe(true);
    before.cover.forEach((v, i) => {
      if (!v) expect(a.data[3 * i]).toBe(before.picture.data[3 * i]);
    });
  });
});

describe('regular structure', () => {
  const bars = (x: number, y: number) => ((x % 24) + 24) % 24 < 6 || ((y % 18) + 18) % 18 < 5;

  test('bars run through in step', () => {
    const lattice = scene((x, y) => (bars(x, y) ? 200 : 70));
    expect(farOff(lattice, fill(lattice).picture, 40)).toBeLessThan(0.02);
  });

  test('what slants away is seen from the front first', () => {
    const away = (x: number, y: number): [number, number] => {
      const w = 1 + 0.0022 * (x - W / 2);
      return [(x - W / 2) / w + 400, (y - H / 2) / w + 400];
    };
    const wall = scene((x, y) => (bars(...away(x, y)) ? 200 : 70));
    const { plane, regularity } = findPlane(prepare(windowOf(wall)).levels);
    expect(regularity).toBeGreaterThan(0.9);
    expect(plane!.g).toBeGreaterThan(0.0017);
    expect(plane!.g).toBeLessThan(0.0027);
    expect(Math.abs(plane!.h)).toBeLessThan(0.0004);
    expect(farOff(wall, fill(wall).picture, 60)).toBeLessThan(0.12);
  });

  test('grain alone is no structure', () => {
    const even = scene(() => 120);
    expect(findPlane(prepare(windowOf(even)).levels)).toMatchObject({ plane: null });
    expect(fill(even).kind).toBe('woven');
    expect(farOff(even, fill(even).picture, 16)).toBeLessThan(0.01);
  });
});

test('says that there is nothing to take from', () => {
  const s = scene(() => 100);
  expect(() => fillByLayout({ ...s, allowed: new Uint8Array(W * H) }, { seed: 1, rank: 0, tone: 1 })).toThrow(
    'no donors',
  );
});
