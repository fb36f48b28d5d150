import { ssim as reference } from 'ssim.js';
import { grainInside, meanInside, psnrInside, ssimMap } from './similarity.ts';

const W = 64;
const H = 48;
const pattern = (k: number) =>
  new Float32Array(W * H).map((_, i) =>
    Math.round(128 + 70 * Math.sin((i % W) * 0.3 + k) * Math.cos(i / W / 5) + 20 * Math.sin(i * k)),
  );

test('SSIM agrees with ssim.js (11 × 11 Gaussian window) away from the border', () => {
  const a = pattern(1);
  const b = pattern(1.13);
  const rgba = (v: Float32Array) => {
    const data = new Uint8ClampedArray(W * H * 4);
    v.forEach((g, i) => data.set([g, g, g, 255], i * 4));
    return { data, width: W, height: H };
  };
  const { ssim_map: map } = reference(rgba(a), rgba(b), {
    ssim: 'original',
    downsample: false,
    rgb2grayVersion: 'integer',
  });
  const ours = ssimMap(a, b, W, H);
  let worst = 0;
  // The reference's map leaves out the 5 px at each side in which the window does not fit.
  for (let y = 0; y < map.height; y++) {
    for (let x = 0; x < map.width; x++) {
      worst = Math.max(worst, Math.abs(map.data[y * map.width + x] - ours[(y + 5) * W + x + 5]));
    }
  }
  expect(map.width).toBe(W - 10);
  expect(worst).toBeLessThan(0.01);
});

test('PSNR and grain in closed form', () => {
  const mask = new Uint8Array(W * H).fill(1);
  const a = new Float32Array(W * H).fill(100);
  expect(
    psnrInside(
      a,
      a.map((v) => v + 5),
      1,
      mask,
    ),
  ).toBeCloseTo(10 * Math.log10((255 * 255) / 25), 6);
  expect(psnrInside(a, a, 1, mask)).toBe(Infinity);
  expect(grainInside(a, W, H, mask)).toBeCloseTo(0, 3);
  const chess = a.map((v, i) => v + (((i % W) + Math.floor(i / W)) & 1 ? 10 : -10));
  // A chessboard has no low frequencies, so that nearly all of its amplitude is grain.
  expect(grainInside(chess, W, H, mask)).toBeGreaterThan(9.5);
  expect(meanInside(a, mask)).toBe(100);
});
