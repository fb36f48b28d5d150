import { withoutUnknown } from './pull-push.ts';
import { createRaster } from './raster.ts';

test('unknown pixels become a smooth continuation of what is around, the others keep every bit', () => {
  const [width, height] = [61, 43];
  const picture = createRaster(width, height, 3, 8);
  for (let i = 0; i < width * height; i++)
    for (let c = 0; c < 3; c++) picture.data[3 * i + c] = 40 + 2 * (i % width) + Math.floor(i / width) + 5 * c;
  const unknown = new Uint8Array(width * height);
  for (let y = 10; y < 30; y++) unknown.fill(1, y * width + 20, y * width + 34);
  const spoilt = { ...picture, data: picture.data.map((v, i) => (unknown[Math.floor(i / 3)] ? 255 : v)) };
  const done = withoutUnknown(spoilt, unknown);
  let worst = 0;
  done.data.forEach((v, i) => {
    if (unknown[Math.floor(i / 3)]) worst = Math.max(worst, Math.abs(v - picture.data[i]));
    else expect(v).toBe(spoilt.data[i]);
  });
  expect(worst).toBeLessThan(12);
});

test('16-bit grey with alpha: alpha is left alone, and a picture of which nothing is known becomes black', () => {
  const picture = createRaster(9, 7, 2, 16);
  picture.data.fill(40_000);
  const all = withoutUnknown(picture, new Uint8Array(63).fill(1));
  expect([all.data[0], all.data[1]]).toEqual([0, 40_000]);
  const unknown = new Uint8Array(63);
  unknown[31] = 1;
  expect(withoutUnknown({ ...picture, data: picture.data.map((v, i) => (i === 62 ? 9 : v)) }, unknown).data[62]).toBe(
    40_000,
  );
});
