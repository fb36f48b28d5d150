import { createRaster, type Raster } from '../../raster/raster.ts';
import { lumaPlane } from '../../raster/luma.ts';
import { randomiser } from '../../../../bench/planted.ts';
import { doubtOfRare } from '../scoring/prevalence.ts';
import { scoredSpecks, specks } from './specks.ts';

const SIZE = { width: 900, height: 600 };
const find = (n: number) => ({ box: { x: (97 * n) % 890, y: (61 * n) % 590, width: 3, height: 3 }, length: 3 });
const scoresOf = (logits: number[], prior: number) =>
  scoredSpecks(
    logits.map((_, n) => find(n)),
    logits,
    doubtOfRare(logits, prior),
    SIZE,
  ).map((f) => f.score);

describe('specks of a picture judged together', () => {
  const detail = Array.from({ length: 1000 }, () => -5);

  test('what is unsure is likely beside many sure ones and unlikely on a clean picture', () => {
    const unsure = 0.3;
    const dusty = scoresOf([unsure, ...Array.from({ length: 40 }, () => 4), ...detail], 0.03);
    const clean = scoresOf([unsure, ...detail], 0.03);
    expect(dusty[0]).toBeGreaterThan(0.5);
    expect(clean[0]).toBeLessThan(0.3);
  });

  test('what is sure stays on a clean picture too', () => {
    expect(scoresOf([8, ...detail], 0.03)[0]).toBeGreaterThan(0.9);
  });
});

/** Grainy ground of one tone with discs on it. */
function ground(discs: Array<{ x: number; y: number; r: number; tone: number }>): Raster {
  const { width, height } = SIZE;
  const picture = createRaster(width, height, 3, 8);
  const random = randomiser(3);
  const values = Float32Array.from(
    { length: width * height },
    (_, i) => 110 + 20 * Math.sin((i % width) / 90) + 9 * (random() + random() - 1),
  );
  for (const { x, y, r, tone } of discs) {
    for (let v = Math.floor(y - r - 2); v <= y + r + 2; v++)
      for (let u = Math.floor(x - r - 2); u <= x + r + 2; u++) {
        const share = Math.min(1, Math.max(0, r - Math.hypot(u - x, v - y) + 0.5));
        values[v * width + u] += (tone - values[v * width + u]) * share;
      }
  }
  values.forEach((v, i) => picture.data.fill(Math.round(v), 3 * i, 3 * i + 3));
  return picture;
}

test('dust on a wall is found whatever its size; a bed of like blossoms beside it is not taken for dust', () => {
  const dust = Array.from({ length: 14 }, (_, n) => ({
    x: 60 + (n % 7) * 120,
    y: 70 + Math.floor(n / 7) * 130 + 9 * (n % 3),
    r: 1.4 + 0.45 * n,
    tone: n % 3 ? 235 : 20,
  }));
  const bed = Array.from({ length: 120 }, (_, n) => ({
    x: 200 + (n % 20) * 25 + ((n * 7) % 5),
    y: 400 + Math.floor(n / 20) * 26 + ((n * 5) % 7),
    r: 4.5,
    tone: 178,
  }));
  const picture = ground([...dust, ...bed]);
  const finds = specks.find({ picture, luma: lumaPlane(picture) }).filter((f) => f.score >= 0.5);
  const on = ({ x, y }: { x: number; y: number }) =>
    finds.some(({ box }) => Math.hypot(box.x + box.width / 2 - x, box.y + box.height / 2 - y) < 2);
  expect(dust.filter(on).length).toBeGreaterThanOrEqual(13);
  expect(bed.filter(on).length).toBeLessThan(30);
});
