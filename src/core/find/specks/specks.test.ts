import { createRaster, type Raster } from '../../raster/raster.ts';
import { lumaPlane } from '../../raster/luma.ts';
import { randomiser } from '../../../../bench/planted.ts';
import { doubtOfRare } from '../scoring/prevalence.ts';
import { dustiness, outsized, scoredSpecks, specks } from './specks.ts';

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
  test('one much larger than all the sure ones is a thing; with few to go by, nothing is said', () => {
    const dust = Array.from({ length: 60 }, (_, n) => ({ width: 3 + (n % 14), score: 0.97 }));
    const more = outsized([...dust, { width: 24, score: 0.96 }, { width: 18, score: 0.96 }, { width: 6, score: 0.4 }]);
    expect(more.slice(-3)).toEqual([-4, 0, 0]);
    expect(more.slice(0, 60).every((v) => v === 0)).toBe(true);
    expect(outsized([...dust.slice(0, 20), { width: 40, score: 0.96 }]).every((v) => v === 0)).toBe(true);
  });

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

describe('a dusty picture', () => {
  const even = { size: 5, busyFar: 4, grainFar: 3.5, clear: 8, rivals: 0.1, strongerFar: 2 };
  const busy = { ...even, busyFar: 20 };
  const stone = { ...even, size: 40 };
  const oneOfMany = { ...even, strongerFar: 30 };

  test('makes what stands out on even ground sure, and the rest a little likelier', () => {
    const [a, b, ...others] = dustiness(
      [even, busy, oneOfMany, stone],
      [...Array.from({ length: 12 }, () => 0.95), 0.3],
    );
    expect(a).toBeGreaterThan(3);
    expect(b).toBeGreaterThan(0);
    expect(b).toBeLessThan(1);
    expect(others).toEqual([0, 0]);
  });

  test('is none with a few sure specks', () => {
    expect(dustiness([even, busy], [0.95, 0.95, 0.3])).toEqual([0, 0, 0]);
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

test('a large drop on ground that slopes is found to the pixel', () => {
  const picture = ground([{ x: 400, y: 300, r: 17, tone: 190 }]);
  const { width } = picture;
  // A steep slope across the whole picture.
  picture.data.forEach((v, i) => {
    const x = Math.floor(i / 3) % width;
    picture.data[i] = Math.max(0, Math.min(255, v - 45 + x / 10));
  });
  const found = specks
    .find({ picture, luma: lumaPlane(picture) })
    .filter((f) => f.box.x < 400 && f.box.x + f.box.width > 400 && f.box.y < 300 && f.box.y + f.box.height > 300);
  expect(found).toHaveLength(1);
  expect(found[0].score).toBeGreaterThan(0.5);
  expect(Math.abs(found[0].box.width - 34)).toBeLessThanOrEqual(2);
  expect(Math.abs(found[0].box.height - 34)).toBeLessThanOrEqual(2);
});
