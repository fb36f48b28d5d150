import { grainInside } from '../../check/similarity.ts';
import { rasterise } from '../../mask/shapes.ts';
import { lumaOf } from '../../raster/planes.ts';
import { createRaster, type Raster } from '../../raster/raster.ts';
import { matchGrain } from './grain.ts';
import { layGrain } from './lay-grain.ts';
import { fillRegion } from './region.ts';
import { DEFAULT_FILL } from './settings.ts';

const [W, H] = [264, 168];

/** Even noise of mean 0 and the same deviation in both directions; no two places alike. */
function noise(seed: number): Float32Array {
  let s = seed >>> 0;
  const uniform = () => {
    s = (Math.imul(s, 1664525) + 1013904223) >>> 0;
    return s / 4294967296;
  };
  return Float32Array.from({ length: W * H }, () => uniform() + uniform() + uniform() - 1.5);
}

const strip = (size: number) =>
  rasterise(
    [
      {
        op: 'add',
        kind: 'strand',
        points: [
          [-10, 70],
          [W + 10, 96],
        ],
        size,
      },
    ],
    { x: 0, y: 0, width: W, height: H },
  ).data.map((v) => (v ? 1 : 0));

/** Four lanes of which the first three are alike. */
function lanes(value: (i: number) => number): Float32Array {
  const image = new Float32Array(W * H * 4);
  for (let i = 0; i < W * H; i++) image.fill(value(i), i * 4, i * 4 + 3);
  return image;
}

const lumaIn = (image: Float32Array) => lumaOf(image, 3);

describe('grain laid on even ground', () => {
  const grain = noise(5);
  const cover = strip(9);
  const truth = lanes((i) => 150 + 8 * grain[i]);
  const flat = () => truth.map((v, k) => (cover[k >> 2] ? 150 : v));
  const share = (image: Float32Array) =>
    grainInside(lumaIn(image), W, H, cover) / grainInside(lumaIn(truth), W, H, cover);

  test('a flat strip gets most of the grain that is around it, and nothing else changes', () => {
    const image = flat();
    expect(share(image)).toBeLessThan(0.4);
    layGrain(image, W, H, cover, 3);
    expect(share(image)).toBeGreaterThan(0.72);
    expect(share(image)).toBeLessThan(1);
    expect(image.filter((v, k) => !cover[k >> 2] && v !== truth[k])).toHaveLength(0);
    const inside = lumaIn(image).filter((_, i) => cover[i]);
    expect(inside.reduce((a, b) => a + b, 0) / inside.length).toBeCloseTo(150, 0);
  });

  test('what has its grain already gets none', () => {
    const image = truth.slice();
    layGrain(image, W, H, cover, 3);
    const changed = lumaIn(image).map((v, i) => Math.abs(v - 150 - 8 * grain[i]));
    expect(changed.reduce((a, b) => a + b, 0) / changed.length).toBeLessThan(0.05);
  });

  test('a lone speck stays soft, which nobody sees', () => {
    const speck = rasterise([{ op: 'add', kind: 'brush', points: [[120, 80]], size: 4 }], {
      x: 0,
      y: 0,
      width: W,
      height: H,
    }).data.map((v) => (v ? 1 : 0));
    const image = truth.map((v, k) => (speck[k >> 2] ? 150 : v));
    layGrain(image, W, H, speck, 3);
    for (let i = 0; i < speck.length; i++) if (speck[i]) expect(Math.abs(image[i * 4] - 150)).toBeLessThan(0.5);
  });

  test('where the picture has structure its detail is not laid in the wrong place', () => {
    const bars = (i: number) => 128 + 70 * Math.sin((2 * Math.PI * (i % W)) / 26) + 3 * grain[i];
    const image = lanes((i) => (cover[i] ? 128 + 70 * Math.sin((2 * Math.PI * (i % W)) / 26) : bars(i)));
    const before = image.slice();
    layGrain(image, W, H, cover, 3);
    expect(image.reduce((most, v, k) => Math.max(most, Math.abs(v - before[k])), 0)).toBeLessThan(1);
  });

  test('neighbouring blocks lay the same, wherever they are cut', () => {
    const whole = flat();
    layGrain(whole, W, H, cover, 3);
    // The right part of the picture as a block of its own.
    const from = 72;
    const part = new Float32Array((W - from) * H * 4);
    const partCover = new Uint8Array((W - from) * H);
    const source = flat();
    for (let y = 0; y < H; y++) {
      for (let x = from; x < W; x++) {
        const to = y * (W - from) + x - from;
        partCover[to] = cover[y * W + x];
        for (let c = 0; c < 4; c++) part[to * 4 + c] = source[(y * W + x) * 4 + c];
      }
    }
    layGrain(part, W - from, H, partCover, 3, { originX: from });
    let [far, count] = [0, 0];
    for (let y = 0; y < H; y++) {
      for (let x = from + 64; x < W; x++) {
        if (!cover[y * W + x]) continue;
        far += Math.abs(part[(y * (W - from) + x - from) * 4] - whole[(y * W + x) * 4]);
        count++;
      }
    }
    expect(count).toBeGreaterThan(800);
    expect(far / count).toBeLessThan(0.1);
  });

  test('a smooth aim keeps less grain than a full one, and both no more than is around', () => {
    const soft = lumaIn(truth);
    const half = lanes((i) => (cover[i] ? 150 + 0.35 * (soft[i] - 150) : soft[i]));
    const [full, low] = [half.slice(), half.slice()];
    matchGrain(full, W, H, cover, 3);
    matchGrain(low, W, H, cover, 3, { aim: 0.5, cap: 2, least: [0, 0] });
    expect(share(low)).toBeGreaterThan(share(half));
    expect(share(low)).toBeLessThan(0.8 * share(full));
    expect(share(full)).toBeLessThan(1.05);
  });
});

describe('a wire before a sky, with something rich beside it', () => {
  const grain = noise(11);
  const tower = (x: number) => x >= 116 && x < 148;
  const scene = (withTower: boolean): Raster => {
    const picture = createRaster(W, H, 3, 8);
    for (let i = 0; i < W * H; i++) {
      const x = i % W;
      const bars = withTower && tower(x) ? (x % 6 < 3 ? -110 : 60) : 0;
      for (let c = 0; c < 3; c++) picture.data[i * 3 + c] = Math.round(160 + bars + 6 * grain[i]);
    }
    return picture;
  };
  const cover = strip(7);
  const filled = (withTower: boolean, style: 'faithful' | 'smooth') =>
    fillRegion({ picture: scene(withTower), cover }, { ...DEFAULT_FILL, style }).picture.data;

  test('the sky beside it is filled as a sky, without streaks of what stands there', () => {
    const [beside, alone] = [filled(true, 'smooth'), filled(false, 'smooth')];
    let [off, worst, count] = [0, 0, 0];
    for (let i = 0; i < W * H; i++) {
      const x = i % W;
      if (!cover[i] || (x > 84 && x < 180)) continue;
      const d = Math.abs(beside[i * 3] - alone[i * 3]);
      off += d;
      worst = Math.max(worst, d);
      count++;
    }
    expect(count).toBeGreaterThan(800);
    expect(off / count).toBeLessThan(0.6);
    expect(worst).toBeLessThan(8);
  });

  test('and has its grain, while the bars run through', () => {
    const data = filled(true, 'faithful');
    const truth = scene(true);
    const plane = (d: ArrayLike<number>) => Float32Array.from({ length: W * H }, (_, i) => d[i * 3]);
    const sky = cover.map((v, i) => (v && Math.abs((i % W) - 132) > 48 ? 1 : 0));
    const ratio = grainInside(plane(data), W, H, sky) / grainInside(plane(truth.data), W, H, sky);
    expect(ratio).toBeGreaterThan(0.7);
    expect(ratio).toBeLessThan(1.1);
    // Bars inside the tower: dark stays dark, light stays light.
    let right = 0;
    let all = 0;
    for (let i = 0; i < W * H; i++) {
      const x = i % W;
      if (!cover[i] || x < 122 || x > 141) continue;
      all++;
      if (data[i * 3] < 130 === truth.data[i * 3] < 130) right++;
    }
    expect(right / all).toBeGreaterThan(0.9);
  });
});
