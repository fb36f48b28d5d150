// What is measured against must itself be right: what the benches plant is where they say it is.
import { lumaPlane } from '../src/core/raster/luma.ts';
import type { Point, Shape } from '../src/core/mask/shapes.ts';
import { createRaster, type Raster } from '../src/core/raster/raster.ts';
import { matchCurves, matchMask, plantCurves } from './curves.ts';
import { distance, field, plantClips, plantFence } from './fence.ts';
import { negative, plantedContrast, plantedTone, randomiser, starkContrast } from './planted.ts';
import { matchSpeck, plantSpecks } from './specks.ts';

const [W, H] = [420, 320];

/** Even ground with a little grain. */
function ground(tone = 130): Raster {
  const picture = createRaster(W, H, 3, 8);
  for (let i = 0; i < picture.data.length; i++) picture.data[i] = tone + (((i / 3) * 7919) % 7);
  return picture;
}
const dab = (x: number, y: number, size: number): Shape[] => [{ op: 'add', kind: 'brush', points: [[x, y]], size }];
const boxOf = (x: number, y: number, size: number) => ({
  x: Math.floor(x - size),
  y: Math.floor(y - size),
  width: Math.ceil(2 * size) + 1,
  height: Math.ceil(2 * size) + 1,
});

describe('planted specks', () => {
  const clean = ground();
  const { picture, list, owner } = plantSpecks(clean, 40, { times: 10, random: randomiser(3) });

  test('change the picture where they lie and nowhere else', () => {
    expect(list.length).toBeGreaterThan(25);
    const [before, after] = [lumaPlane(clean), lumaPlane(picture)];
    let beside = 0;
    let faint = 0;
    for (let i = 0; i < owner.length; i++) {
      if (owner[i]) {
        if (Math.abs(after[i] - before[i]) <= 5) faint++;
        continue;
      }
      if (after[i] === before[i]) continue;
      // Soft edges reach a little beyond half coverage.
      const [x, y] = [i % W, Math.floor(i / W)];
      const near = list.some((s) => Math.hypot(s.x - x, s.y - y) < s.rx + 6);
      if (!near) beside++;
    }
    expect([beside, faint]).toEqual([0, 0]);
  });

  test('are counted pixel by pixel, and apart from each other', () => {
    list.forEach((s, n) => {
      const area = owner.reduce((sum, o) => sum + (o === n + 1 ? 1 : 0), 0);
      expect(area).toBe(s.area);
      expect(Math.abs(area - Math.PI * s.rx * s.ry)).toBeLessThan(3 + 0.35 * Math.PI * s.rx * s.ry);
      for (const t of list) if (t !== s) expect(Math.hypot(s.x - t.x, s.y - t.y)).toBeGreaterThan(s.rx);
    });
  });

  test('the same seed plants the same, another one others', () => {
    const again = plantSpecks(clean, 40, { times: 10, random: randomiser(3) });
    expect(again.list).toEqual(list);
    expect(plantSpecks(clean, 40, { times: 10, random: randomiser(4) }).list).not.toEqual(list);
  });

  test('a find counts when it shares half of both, else not', () => {
    const large = list.reduce((a, b) => (b.area > a.area ? b : a));
    const n = list.indexOf(large);
    const size = 2 * Math.sqrt(large.area / Math.PI);
    const find = (x: number, y: number, s: number) => ({ shapes: dab(x, y, s), box: boxOf(x, y, s) });
    expect(matchSpeck(find(large.x, large.y, size), owner, list, W)).toBe(n);
    expect(matchSpeck(find(large.x, large.y, 0.5 * size), owner, list, W)).toBe(-1);
    expect(matchSpeck(find(large.x, large.y, 1.7 * size), owner, list, W)).toBe(-1);
    expect(matchSpeck(find(large.x + 0.7 * size, large.y, size), owner, list, W)).toBe(-1);
  });

  test('for fitting they are turned and toned otherwise', () => {
    const varied = plantSpecks(clean, 40, { times: 10, random: randomiser(3), varied: true });
    expect(varied.list).not.toEqual(list);
    const usual = { times: 1, random: randomiser(1) };
    expect(plantedTone(true, [246, 14], usual)).toEqual({ tone: 246, tones: [246, 246, 246] });
    const tones = Array.from({ length: 50 }, () => plantedTone(false, [246, 14], { ...usual, varied: true }));
    expect(tones.every(({ tone }) => tone >= 3 && tone <= 58)).toBe(true);
    expect(new Set(tones.map(({ tone }) => tone)).size).toBe(50);
    expect(tones.some(({ tones: [r, g] }) => Math.abs(r - g) > 5)).toBe(true);
    expect(plantedContrast(9, { ...usual, times: 5 })).toBe(45);
    expect(plantedContrast(0.1, { ...usual, times: 5 })).toBe(20);
    // Some stand out starkly from even ground, as white dust does from a wall.
    const random = randomiser(4);
    const stark = Array.from({ length: 400 }, () => starkContrast({ times: 5, random, varied: true }));
    expect(stark.filter((v) => v > 40).length / 400).toBeCloseTo(0.22, 1);
    expect(Math.max(...stark)).toBeLessThanOrEqual(150);
    expect(starkContrast(usual)).toBe(0);
  });
});

describe('planted hairs and scratches', () => {
  const planted = plantCurves(ground(), 12, { times: 5, random: randomiser(8) });

  test('lie where their lines say', () => {
    expect(planted.lines.length).toBeGreaterThan(6);
    const [before, after] = [lumaPlane(ground()), lumaPlane(planted.picture)];
    for (const line of planted.lines)
      for (const [x, y] of line.filter((_, i) => i % 7 === 3)) {
        const i = Math.floor(y) * W + Math.floor(x);
        expect(planted.near[i]).toBeLessThan(1);
        expect(Math.abs(after[i] - before[i])).toBeGreaterThan(8);
      }
    let far = 0;
    for (let i = 0; i < before.length; i++) if (planted.near[i] >= 6 && before[i] !== after[i]) far++;
    expect(far).toBe(0);
  });

  test('all of them found is recall and precision 1; half of them, or as much beside them, half', () => {
    const cover = (lines: Point[][]): Shape[] =>
      lines.map((points) => ({ op: 'add', kind: 'strand', points, size: 3 }));
    const all = matchCurves(cover(planted.lines), planted);
    expect(all.recall).toBe(1);
    expect(all.precision).toBeGreaterThan(0.99);
    const lengths = planted.lines.map((l) => l.length);
    const first = planted.lines.slice(0, 4);
    const some = matchCurves(cover(first), planted);
    const share = lengths.slice(0, 4).reduce((a, b) => a + b) / lengths.reduce((a, b) => a + b);
    expect(some.recall).toBeCloseTo(share, 2);
    expect(some.precision).toBeGreaterThan(0.99);
    const none = matchCurves([], planted);
    expect([none.recall, none.precision]).toEqual([0, 0]);
    const everything = matchMask(new Uint8Array(W * H).fill(1), W, planted.lines, planted.near);
    expect(everything.recall).toBe(1);
    expect(everything.precision).toBeLessThan(0.5);
  });
});

describe('planted fences', () => {
  const clean = ground(150);
  const fence = plantFence(clean, { random: randomiser(2), tone: 40 });

  test('are dark along their lines and leave the ground between alone', () => {
    expect(fence.families).toHaveLength(2);
    const [before, after] = [lumaPlane(clean), lumaPlane(fence.picture)];
    for (const line of fence.all)
      for (const [x, y] of line.filter((_, i) => i % 40 === 20))
        expect(after[Math.floor(y) * W + Math.floor(x)]).toBeLessThan(80);
    let touched = 0;
    for (let i = 0; i < before.length; i++) if (fence.near[i] > 6 && after[i] !== before[i]) touched++;
    expect(touched).toBe(0);
  });

  test('a place is as far from a line as it is', () => {
    const near = field([[[50, 40]]], 100, 80);
    expect(distance(near, 100, [50.5, 40.5])).toBeCloseTo(Math.hypot(0.5, 0.5), 5);
    expect(distance(near, 100, [53, 44])).toBeCloseTo(Math.hypot(3.5, 4.5), 5);
    expect(distance(near, 100, [70, 40])).toBe(99);
    expect(distance(near, 100, [70, 400])).toBe(99);
  });

  test('clips sit on strands, are wider than these, can be seen, and lie apart', () => {
    const picture = { ...fence.picture, data: fence.picture.data.slice() };
    const { list, owner } = plantClips(picture, fence.all, 40, 2.4, randomiser(6));
    expect(list.length).toBeGreaterThan(8);
    for (const clip of list) {
      expect(distance(fence.near, W, [clip.x, clip.y])).toBeLessThan(1);
      expect(clip.rx).toBeGreaterThan(1.7 * 2.4);
      expect(owner[Math.floor(clip.y) * W + Math.floor(clip.x)]).toBe(list.indexOf(clip) + 1);
      for (const other of list)
        if (other !== clip) expect(Math.hypot(other.x - clip.x, other.y - clip.y)).toBeGreaterThan(59);
    }
  });
});

test('a negative of a negative is the picture', () => {
  const picture = ground();
  expect(Buffer.compare(Buffer.from(negative(negative(picture)).data), Buffer.from(picture.data))).toBe(0);
  expect(negative(picture).data[0]).toBe(255 - picture.data[0]);
});
