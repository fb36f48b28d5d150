import { createRequire } from 'node:module';
import { blur, gaussianKernel, spread, toFloat4, lumaOf } from './planes.ts';
import { createRaster } from './raster.ts';

const [W, H] = [61, 47];
const noisy = () => new Float32Array(W * H).map((_, i) => ((i * 2654435761) >>> 7) % 256);

describe('Gaussian blur', () => {
  test('its kernel adds up to 1, is even, and has the standard deviation asked for', () => {
    for (const sigma of [0.7, 1, 2.5, 6]) {
      const kernel = gaussianKernel(sigma);
      const r = (kernel.length - 1) / 2;
      expect(kernel.reduce((s, v) => s + v, 0)).toBeCloseTo(1, 5);
      expect([...kernel].reverse()).toEqual([...kernel]);
      const variance = kernel.reduce((s, v, i) => s + v * (i - r) ** 2, 0);
      expect(Math.sqrt(variance) / sigma).toBeCloseTo(1, 1);
    }
  });

  test('a point becomes the product of two kernels', () => {
    const source = new Float32Array(W * H);
    source[20 * W + 30] = 1;
    const kernel = gaussianKernel(1.5);
    const r = (kernel.length - 1) / 2;
    const out = blur(source, W, H, 1.5);
    for (let v = -r; v <= r; v++)
      for (let u = -r; u <= r; u++) expect(out[(20 + v) * W + 30 + u]).toBeCloseTo(kernel[v + r] * kernel[u + r], 6);
    expect(out[5 * W + 5]).toBe(0);
  });

  test('even ground and a slope stay what they are', () => {
    const flat = blur(new Float32Array(W * H).fill(77), W, H, 2);
    expect(Math.max(...flat.map((v) => Math.abs(v - 77)))).toBeLessThan(1e-3);
    const slope = blur(
      new Float32Array(W * H).map((_, i) => 2 * (i % W)),
      W,
      H,
      2,
    );
    for (let x = 8; x < W - 8; x++) expect(slope[20 * W + x]).toBeCloseTo(2 * x, 2);
  });

  test('equals OpenCV with the same kernel and repeated edges', async () => {
    // The module is thenable, so it is carried in an object.
    const holder = { cv: createRequire(__filename)('@techstark/opencv-js') };
    await new Promise<void>((resolve) => (holder.cv.Mat ? resolve() : (holder.cv.onRuntimeInitialized = resolve)));
    const { cv } = holder;
    const source = noisy();
    for (const sigma of [1, 2]) {
      const size = gaussianKernel(sigma).length;
      const src = cv.matFromArray(H, W, cv.CV_32FC1, source);
      const dst = new cv.Mat();
      cv.GaussianBlur(src, dst, new cv.Size(size, size), sigma, sigma, cv.BORDER_REPLICATE);
      const ours = blur(source, W, H, sigma);
      let most = 0;
      for (let i = 0; i < ours.length; i++) most = Math.max(most, Math.abs(ours[i] - dst.data32F[i]));
      expect(most).toBeLessThan(0.01);
      src.delete();
      dst.delete();
    }
  });
});

test('spreading twice with a box keeps the sum and falls off evenly to both sides', () => {
  const source = new Float32Array(W * H);
  source[23 * W + 30] = 100;
  const out = spread(source, W, H, 3);
  expect(out.reduce((s, v) => s + v, 0)).toBeCloseTo(100, 2);
  for (let d = 1; d <= 6; d++) {
    expect(out[23 * W + 30 + d]).toBeCloseTo(out[23 * W + 30 - d], 4);
    expect(out[23 * W + 30 + d]).toBeLessThan(out[23 * W + 30 + d - 1]);
  }
  expect(out[23 * W + 30 + 7]).toBeCloseTo(0, 5);
});

test('luma weighs the colours as Rec. 709 says, and grey is itself', () => {
  const picture = createRaster(2, 1, 3, 8, Uint8Array.from([255, 0, 0, 10, 20, 30]));
  const luma = lumaOf(toFloat4(picture), 3);
  expect(luma[0]).toBeCloseTo(0.2126 * 255, 2);
  expect(luma[1]).toBeCloseTo(0.2126 * 10 + 0.7152 * 20 + 0.0722 * 30, 3);
  const grey = createRaster(2, 1, 1, 8, Uint8Array.from([9, 200]));
  expect([...lumaOf(toFloat4(grey), 1)]).toEqual([9, 200]);
});
