import { randomiser } from '../../../../bench/planted.ts';
import { neighbourFeatures, type Place } from './neighbour-features.ts';

const [WIDTH, HEIGHT] = [1200, 900];
const alone: Place = { x: 900, y: 200, size: 6, contrast: 50 };
/** Blossoms of one kind, 30 px apart. */
const bed = Array.from({ length: 49 }, (_, n): Place => ({
  x: 200 + (n % 7) * 30,
  y: 300 + Math.floor(n / 7) * 30,
  size: 9 + (n % 3) * 0.5,
  contrast: 60 + (n % 5),
}));
const likes = (...places: Place[]) => neighbourFeatures(places, WIDTH, HEIGHT);

/** The same by comparing all with all. */
function plainly(places: Place[], i: number) {
  const a = places[i];
  const others = places.filter((b, k) => k !== i && b.size / a.size <= 1.5 && a.size / b.size < 1.5);
  const within = (b: Place, far: number) => Math.hypot(b.x - a.x, b.y - a.y) <= far;
  const [near, far] = [Math.max(64, 5 * a.size), Math.min(512, Math.max(192, 16 * a.size))];
  const share = (b: Place) => b.contrast / a.contrast;
  const count = (reach: number, test: (s: number) => boolean) =>
    others.filter((b) => within(b, reach) && test(share(b))).length;
  const alike = (s: number) => s > 1 / 1.5 && s < 1.5;
  return {
    alike: count(near, alike),
    alikeFar: count(far, alike),
    stronger: count(near, (s) => s > 0.8),
    strongerFar: count(far, (s) => s > 0.8),
    opposite: count(far, (s) => s < -1 / 1.5),
  };
}

describe('others of a kind', () => {
  test('a blossom has many around it, a speck by itself none', () => {
    const all = likes(...bed, alone);
    expect(all[24].alike).toBe(12);
    expect(all[24].alikeFar).toBe(48);
    expect(all[49]).toEqual({ alike: 0, alikeFar: 0, stronger: 0, strongerFar: 0, opposite: 0 });
  });

  test('what is of another size, of another strength or the other way is not its like', () => {
    const near = (change: Partial<Place>) => likes(alone, { ...alone, x: 910, ...change })[0];
    expect(near({})).toEqual({ alike: 1, alikeFar: 1, stronger: 1, strongerFar: 1, opposite: 0 });
    expect(near({ size: 10 })).toMatchObject({ alike: 0, strongerFar: 0 });
    expect(near({ contrast: 120 })).toMatchObject({ alike: 0, stronger: 1 });
    expect(near({ contrast: 20 })).toMatchObject({ alike: 0, stronger: 0 });
    expect(near({ contrast: -50 })).toMatchObject({ alike: 0, stronger: 0, opposite: 1 });
    expect(near({ x: 1000 })).toMatchObject({ alike: 0, alikeFar: 1, strongerFar: 1 });
    expect(near({ x: 1100 })).toMatchObject({ alikeFar: 0 });
  });

  test('looking up by cells counts what comparing all with all counts, at borders and for large ones too', () => {
    const random = randomiser(5);
    const places = Array.from({ length: 600 }, (): Place => ({
      x: random() * WIDTH,
      y: random() * HEIGHT,
      size: 2 * 25 ** random(),
      contrast: (random() < 0.5 ? -1 : 1) * (10 + 80 * random()),
    }));
    const all = likes(...places);
    expect(places.filter((_, i) => JSON.stringify(all[i]) !== JSON.stringify(plainly(places, i)))).toEqual([]);
  });

  test('there may be none at all', () => {
    expect(likes()).toEqual([]);
  });
});
