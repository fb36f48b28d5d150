import { distanceTransform } from '../../mask/distance.ts';
import { nearCover } from '../../mask/near.ts';
import { deepParts } from './deep.ts';
import { joinSides } from './joins.ts';
import { peel } from './peel.ts';

const [W, H] = [80, 60];
const listOf = (cover: Uint8Array) => Int32Array.from([...cover.keys()].filter((i) => cover[i]));
const coverWhere = (inside: (x: number, y: number) => boolean) =>
  Uint8Array.from({ length: W * H }, (_, i) => (inside(i % W, Math.floor(i / W)) ? 1 : 0));
const imageOf = (tone: (x: number, y: number) => number) => {
  const image = new Float32Array(4 * W * H);
  for (let i = 0; i < W * H; i++) image.fill(tone(i % W, Math.floor(i / W)), 4 * i, 4 * i + 3);
  return image;
};

describe('peeling a cover', () => {
  const cover = coverWhere((x, y) => x >= 20 && x < 60 && y >= 15 && y < 45);

  it('goes layer by layer, as many as a pixel lies deep by squares', () => {
    const covered = listOf(cover);
    const layers = peel(imageOf(() => 90), W, H, cover, covered); // prettier-ignore
    covered.forEach((i, n) => {
      const [x, y] = [i % W, Math.floor(i / W)];
      expect(layers[n]).toBe(1 + Math.min(x - 20, 59 - x, y - 15, 44 - y));
    });
  });

  it('gives back what is constant, and is bounded by what is around', () => {
    const image = imageOf((x) => (x < 40 ? 40 : 200));
    for (const i of listOf(cover)) image.fill(-1000, 4 * i, 4 * i + 3);
    peel(image, W, H, cover, listOf(cover));
    for (const i of listOf(cover)) {
      expect(image[4 * i]).toBeGreaterThanOrEqual(40);
      expect(image[4 * i]).toBeLessThanOrEqual(200);
    }
    expect(image[4 * (30 * W + 21)]).toBeCloseTo(40);
  });

  it('is middle grey where nothing is known', () => {
    const all = new Uint8Array(W * H).fill(1);
    const image = imageOf(() => 3);
    expect(peel(image, W, H, all, listOf(all)).every((l) => l === 1)).toBe(true);
    expect(image[4 * 777]).toBe(128);
  });
});

describe('what lies near a cover', () => {
  it.each([3, 5])('is a disc of %i px around each pixel', (by) => {
    const cover = coverWhere((x, y) => (x === 30 && y === 30) || (x >= 50 && x < 56 && y >= 10 && y < 16));
    const near = nearCover(cover, W, H, listOf(cover), by);
    const distance = distanceTransform(cover, W, H, 'inside');
    near.forEach((v, i) => expect(v).toBe(distance[i] ** 2 <= by * by + 1 + 1e-3 ? 1 : 0));
  });
});

describe('edges met on both sides of a strand', () => {
  // An edge of 1 in 2 runs under a level strand of 7 px.
  const light = (x: number, y: number) => (x - 40 > 2 * (y - 30) ? 200 : 60);
  const cover = coverWhere((_, y) => y >= 27 && y < 34);
  const covered = listOf(cover);
  const image = imageOf(light);
  for (const i of covered) image.fill(0, 4 * i, 4 * i + 3);
  const { leans, values } = joinSides(image, W, H, peel(image.slice(), W, H, cover, covered), covered);

  it('are joined where they run', () => {
    let [right, all] = [0, 0];
    covered.forEach((i, n) => {
      const [x, y] = [i % W, Math.floor(i / W)];
      const off = Math.abs(x - 40 - 2 * (y - 30));
      if (off > 12 || off < 2 || leans[n] < 0.2) return;
      all++;
      if (values[4 * n] > 130 === light(x, y) > 130) right++;
    });
    expect(all).toBeGreaterThan(60);
    expect(right / all).toBeGreaterThan(0.95);
  });

  it('say nothing where all directions agree alike', () => {
    const flat = imageOf(() => 100);
    const { leans: none } = joinSides(flat, W, H, peel(flat.slice(), W, H, cover, covered), covered);
    covered.forEach((i, n) => {
      if (i % W > 30 && i % W < 50) expect(values[4 * n]).toBeGreaterThanOrEqual(0);
      expect(Number.isFinite(none[n])).toBe(true);
    });
  });
});

describe('deep places of a cover', () => {
  it('take their corners, and leave strands that lead away', () => {
    const box = (x: number, y: number) => x >= 10 && x < 40 && y >= 10 && y < 50;
    const spike = (x: number, y: number) => y >= 10 && y < 50 && x >= 40 && x < 46 && Math.abs(y - 30) < (46 - x) / 2;
    const strand = (x: number, y: number) => x >= 40 && x < 80 && y >= 20 && y < 25;
    const cover = coverWhere((x, y) => box(x, y) || spike(x, y) || strand(x, y));
    const deep = deepParts(cover, distanceTransform(cover, W, H, 'outside'), W, 8);
    expect(deep[30 * W + 44]).toBe(1);
    expect(deep[10 * W + 10]).toBe(1);
    expect(deep[22 * W + 60]).toBe(0);
    deep.forEach((v, i) => v && expect(cover[i]).toBe(1));
  });
});
