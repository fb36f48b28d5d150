import { rasterise } from '../../mask/shapes.ts';
import { componentBoxes } from '../../mask/components.ts';
import { membrane } from './membrane.ts';
import { predictBlock } from './predict.ts';
import { workFrame } from './region.ts';
import { searchDonors } from './search.ts';
import { allowedCentres, halve, type SearchLevel } from './search-levels.ts';

/** Numbers that look random but are always the same. */
const scatter = (i: number) => ((i * 2654435761) >>> 9) % 256;

const blob = (width: number, height: number, x: number, y: number, size: number) =>
  rasterise([{ op: 'add', kind: 'brush', points: [[x, y]], size }], { x: 0, y: 0, width, height }).data.map((v) =>
    v ? 1 : 0,
  );

/** A level of a picture that repeats itself every `period` px both ways, with a hole. */
function repeating(width: number, height: number, period: number, hole: Uint8Array): SearchLevel {
  const pixels = new Uint8Array(width * height * 4);
  for (let i = 0; i < width * height; i++) {
    const cell = ((Math.floor(i / width) % period) * period + ((i % width) % period)) * 3;
    for (let c = 0; c < 3; c++) pixels[i * 4 + c] = scatter(cell + c);
    pixels[i * 4 + 3] = 100;
  }
  const target = pixels.slice();
  for (let i = 0; i < hole.length; i++) if (hole[i]) target.fill(255, i * 4, i * 4 + 3);
  const allowed = hole.map((v) => 1 - v);
  return { width, height, target, cover: hole.slice(), donors: { width, height, pixels: target.slice(), allowed } };
}

describe('searching donors', () => {
  const settings = { seed: 3, radius: 3, rounds: [8, 4] as [number, number], falloff: 1.15 };
  const [W, H] = [96, 80];
  const hole = blob(W, H, 50, 40, 22);

  test('centres are where whole patches are allowed, as counted one by one', () => {
    const allowed = Uint8Array.from({ length: 40 * 30 }, (_, i) => (scatter(i) < 245 ? 1 : 0));
    for (const r of [0, 1, 2]) {
      const centres = allowedCentres(allowed, 40, 30, r);
      let wrong = 0;
      for (let y = 0; y < 30; y++) {
        for (let x = 0; x < 40; x++) {
          let whole = x >= r && y >= r && x < 40 - r && y < 30 - r;
          for (let v = y - r; whole && v <= y + r; v++)
            for (let u = x - r; whole && u <= x + r; u++) whole = allowed[v * 40 + u] === 1;
          if (centres[y * 40 + x] !== (whole ? 1 : 0)) wrong++;
        }
      }
      expect(wrong).toBe(0);
    }
  });

  test('halving takes the mean of known pixels only, and keeps donors that are wholly allowed', () => {
    const level = repeating(W, H, 7, hole);
    const half = halve(level);
    expect([half.width, half.height]).toEqual([48, 40]);
    let [wrong, covered, shut] = [0, 0, 0];
    for (let y = 0; y < 40; y++) {
      for (let x = 0; x < 48; x++) {
        const four = [0, 1, W, W + 1].map((d) => 2 * y * W + 2 * x + d);
        const known = four.filter((i) => !hole[i]);
        const cell = y * 48 + x;
        if (half.cover[cell] !== (known.length < 4 ? 1 : 0)) wrong++;
        if (half.donors.allowed[cell] !== (known.length === 4 ? 1 : 0)) wrong++;
        covered += half.cover[cell];
        shut += 1 - half.donors.allowed[cell];
        if (!known.length) continue;
        const mean = known.reduce((s, i) => s + level.target[i * 4], 0) / known.length;
        if (Math.abs(half.target[cell * 4] - mean) > 0.5) wrong++;
      }
    }
    expect(wrong).toBe(0);
    expect(covered).toBe(shut);
    expect(covered).toBeGreaterThan(70);
  });

  test('a picture that repeats itself comes back pixel by pixel, from allowed places', () => {
    const level = repeating(W, H, 9, hole);
    const whole = repeating(W, H, 9, new Uint8Array(W * H)).target;
    const labels = searchDonors([level], settings);
    expect(labels.pixels).toHaveLength(hole.reduce((a, b) => a + b, 0));
    let right = 0;
    labels.pixels.forEach((p, n) => {
      const [x, y] = [labels.donors[2 * n], labels.donors[2 * n + 1]];
      const from = y * W + x;
      if (level.donors.allowed[from] && [0, 1, 2].every((c) => whole[from * 4 + c] === whole[p * 4 + c])) right++;
    });
    expect(right / labels.pixels.length).toBeGreaterThan(0.97);
  });

  test('the same seed finds the same, and where nothing is whole there are no donors', () => {
    const twice = [0, 1].map(() => searchDonors([repeating(W, H, 9, hole)], settings));
    expect(twice[0].donors).toEqual(twice[1].donors);
    const level = repeating(W, H, 9, hole);
    level.donors.allowed = level.donors.allowed.map((v, i) => (i % 4 === 0 ? 0 : v));
    expect(() => searchDonors([level], settings)).toThrow('no donors');
  });
});

describe('predicting', () => {
  const [W, H] = [120, 90];
  const image = (f: (x: number, y: number) => number) => {
    const out = new Float32Array(W * H * 4);
    for (let i = 0; i < W * H; i++) out.fill(f(i % W, Math.floor(i / W)), i * 4, i * 4 + 3);
    return out;
  };
  const cover = blob(W, H, 60, 45, 6);
  const off = (a: Float32Array, f: (x: number, y: number) => number) => {
    let [sum, n] = [0, 0];
    for (let i = 0; i < cover.length; i++) {
      if (!cover[i]) continue;
      sum += (a[i * 4] - f(i % W, Math.floor(i / W))) ** 2;
      n++;
    }
    return Math.sqrt(sum / n);
  };
  const spoilt = (f: (x: number, y: number) => number) => image(f).map((v, k) => (cover[k >> 2] ? 255 : v));

  test('the membrane over a slope is the slope', () => {
    const slope = (x: number, y: number) => 20 + 0.7 * x + 0.9 * y;
    const done = spoilt(slope);
    membrane(done, W, H, cover, 3, 0.001);
    expect(off(done, slope)).toBeLessThan(0.3);
  });

  test('waves are carried on, which a membrane flattens', () => {
    const waves = (x: number, y: number) => 128 + 60 * Math.sin(0.9 * x + 0.35 * y) + (scatter(x + y * W) - 128) / 60;
    const [truth, flat, carried] = [image(waves), spoilt(waves), spoilt(waves)];
    membrane(flat, W, H, cover, 3);
    predictBlock({ image: carried, width: W, height: H, cover, colours: 3, originX: 0, originY: 0 });
    expect(off(carried, waves)).toBeLessThan(0.8 * off(flat, waves));
    // What is known stays.
    expect(carried.filter((v, k) => !cover[k >> 2] && k % 4 < 3 && v !== truth[k])).toHaveLength(0);
  });

  test('white noise is not made up: nothing about a pixel is known from its neighbours', () => {
    let seed = 9;
    const values = Float32Array.from({ length: W * H }, () => {
      seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
      return 128 + 64 * (seed / 4294967296 - 0.5);
    });
    const noise = (x: number, y: number) => values[y * W + x];
    const done = spoilt(noise);
    predictBlock({ image: done, width: W, height: H, cover, colours: 3, originX: 0, originY: 0 });
    const inside = [...cover.keys()].filter((i) => cover[i]).map((i) => done[i * 4]);
    const mean = inside.reduce((a, b) => a + b, 0) / inside.length;
    const deviation = Math.sqrt(inside.reduce((s, v) => s + (v - mean) ** 2, 0) / inside.length);
    expect(Math.abs(mean - 128)).toBeLessThan(9);
    expect(deviation).toBeLessThan(9);
  });
});

describe('what a fill looks at', () => {
  test('parts of a cover, touching by a corner counted as one, near ones joined when asked', () => {
    const [W, H] = [60, 40];
    const mask = new Uint8Array(W * H);
    for (const [x, y] of [
      [3, 4],
      [4, 5],
      [20, 4],
      [55, 30],
    ])
      mask[y * W + x] = 1;
    expect(componentBoxes(mask, W, H)).toEqual([
      { x: 3, y: 4, width: 2, height: 2 },
      { x: 20, y: 4, width: 1, height: 1 },
      { x: 55, y: 30, width: 1, height: 1 },
    ]);
    expect(componentBoxes(mask, W, H, 16)).toEqual([
      { x: 3, y: 4, width: 18, height: 2 },
      { x: 55, y: 30, width: 1, height: 1 },
    ]);
    expect(componentBoxes(new Uint8Array(W * H), W, H)).toEqual([]);
  });

  test('its frame follows the cover and not the picture', () => {
    const frames = [1500, 3000].map((side) => workFrame(blob(side, side, 700, 700, 30), side, side));
    expect([frames[0].width, frames[0].height]).toEqual([frames[1].width, frames[1].height]);
    expect(frames[0].width).toBeLessThan(700);
    expect(frames[0].x).toBeGreaterThan(0);
    const small = workFrame(blob(200, 150, 100, 75, 60), 200, 150);
    expect(small).toEqual({ x: 0, y: 0, width: 200, height: 150 });
    expect(workFrame(new Uint8Array(200 * 150), 200, 150)).toMatchObject({ width: 0, height: 0 });
  });
});
