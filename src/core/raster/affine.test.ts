import { randomiser } from '../../../bench/planted.ts';
import { applyAffine, cubic, isWhole, sampleAffine, sourceBox, type Affine } from './affine.ts';
import { createRaster, crop, type Box } from './raster.ts';

const [W, H] = [40, 30];
const picture = createRaster(W, H, 3, 8);
picture.data.forEach((_, i) => (picture.data[i] = (i * 2654435761) >>> 24));
const size = { width: W, height: H };
const shift = (e: number, f: number): Affine => ({ a: 1, b: 0, c: 0, d: 1, e, f });
const turned = (degrees: number, scale: number, e = 20, f = 5): Affine => {
  const [cos, sin] = [Math.cos((degrees * Math.PI) / 180) * scale, Math.sin((degrees * Math.PI) / 180) * scale];
  return { a: cos, b: -sin, c: sin, d: cos, e, f };
};

describe('the cubic weight', () => {
  test('is 1 at its place, 0 at the others, and those of any place add up to 1', () => {
    expect([0, 1, 2, 3].map(cubic)).toEqual([1, 0, 0, 0]);
    for (const t of [0, 0.1, 0.37, 0.5, 0.99]) {
      const sum = cubic(1 + t) + cubic(t) + cubic(1 - t) + cubic(2 - t);
      expect(sum).toBeCloseTo(1, 12);
      // Straight lines stay straight: first moments vanish (Keys 1981).
      const moment = cubic(1 + t) * (1 + t) + cubic(t) * t - cubic(1 - t) * (1 - t) - cubic(2 - t) * (2 - t);
      expect(moment).toBeCloseTo(0, 12);
    }
  });
});

describe('maps that send pixels to pixels', () => {
  test.each([
    ['a whole shift', shift(3, -2), true],
    ['half a px', shift(0.5, 0), false],
    ['mirrored', { a: -1, b: 0, c: 0, d: 1, e: 20, f: 0 }, true],
    ['a quarter turn', { a: 0, b: -1, c: 1, d: 0, e: 20, f: 0 }, true],
    ['a little larger', { a: 1.01, b: 0, c: 0, d: 1, e: 0, f: 0 }, false],
    ['turned by a degree', turned(1, 1), false],
  ] as Array<[string, Affine, boolean]>)('%s: %o', (_, m, expected) => {
    expect(isWhole(m)).toBe(expected);
  });

  test('copy samples as they are', () => {
    const target: Box = { x: 4, y: 6, width: 9, height: 7 };
    const mirrored: Affine = { a: -1, b: 0, c: 0, d: 1, e: 30, f: 2 };
    const { values, valid, colours } = sampleAffine((b) => crop(picture, b), size, mirrored, target);
    expect(colours).toBe(3);
    expect(valid.every((v) => v === 1)).toBe(true);
    for (let y = 0; y < 7; y++)
      for (let x = 0; x < 9; x++)
        for (let c = 0; c < 3; c++)
          expect(values[(y * 9 + x) * 3 + c]).toBe(picture.data[((y + 8) * W + 29 - (x + 4)) * 3 + c]);
  });
});

describe('any map', () => {
  test('reads nothing beyond what it says it reads', () => {
    const random = randomiser(9);
    for (let n = 0; n < 40; n++) {
      const m = turned(360 * random(), 0.4 + 2 * random(), 40 * random(), 30 * random());
      const target = { x: Math.floor(20 * random()), y: Math.floor(15 * random()), width: 8, height: 6 };
      const said = sourceBox(m, target, W, H);
      let asked: Box | null = null;
      const whole = sampleAffine(() => picture, size, m, target);
      const part = sampleAffine(
        (b) => {
          asked = b;
          return crop(picture, b);
        },
        size,
        m,
        target,
      );
      if (!said.width || !said.height) {
        expect(part.valid.every((v) => v === 0)).toBe(true);
        continue;
      }
      expect(asked).toEqual(said);
      // A piece of the picture gives the same as all of it, when its place is told.
      const again = sampleAffine((b) => crop(picture, b), size, m, target);
      expect([...again.values]).toEqual([...part.values]);
      expect(whole.valid.length).toBe(48);
    }
  });

  test('a place is valid exactly where the map leads into the picture', () => {
    const m = turned(30, 1.3, 12, -6);
    const target = { x: 0, y: 0, width: 25, height: 25 };
    const { valid } = sampleAffine((b) => crop(picture, b), size, m, target);
    for (let y = 0; y < 25; y++)
      for (let x = 0; x < 25; x++) {
        const [u, v] = applyAffine(m, x + 0.5, y + 0.5);
        expect(valid[y * 25 + x]).toBe(u >= 0 && v >= 0 && u <= W && v <= H ? 1 : 0);
      }
  });

  test('a slope stays a slope under shift, turn and growth', () => {
    const slope = createRaster(W, H, 1, 16);
    for (let y = 0; y < H; y++) for (let x = 0; x < W; x++) slope.data[y * W + x] = 1000 + 300 * x + 500 * y;
    for (const m of [shift(2.3, 1.7), turned(17, 1, 8, 4), turned(-40, 0.6, 6, 18)]) {
      const target = { x: 6, y: 6, width: 6, height: 6 };
      const { values, valid } = sampleAffine((b) => crop(slope, b), size, m, target);
      for (let y = 0; y < 6; y++)
        for (let x = 0; x < 6; x++) {
          const [u, v] = applyAffine(m, x + 6.5, y + 6.5);
          // Near the edge, where the edge is repeated, a slope is none.
          if (!valid[y * 6 + x] || u < 3 || v < 3 || u > W - 3 || v > H - 3) continue;
          expect(values[y * 6 + x]).toBeCloseTo(1000 + 300 * (u - 0.5) + 500 * (v - 0.5), 1);
        }
    }
  });

  test('what is not wanted is not worked out', () => {
    const wanted = Uint8Array.from({ length: 36 }, (_, i) => i % 2);
    const { valid } = sampleAffine(
      (b) => crop(picture, b),
      size,
      turned(10, 1, 5, 5),
      { x: 3, y: 3, width: 6, height: 6 },
      wanted,
    );
    expect([...valid].every((v, i) => (i % 2 ? v === 1 : v === 0))).toBe(true);
  });

  test.each([
    [8, 1],
    [8, 3],
    [8, 4],
    [16, 2],
    [16, 3],
  ] as const)(
    '%d bit, %d channels: every colour is the weighted mean that a plain loop takes, to the last bit',
    (depth, channels) => {
      const source = createRaster(W, H, channels, depth);
      source.data.forEach((_, i) => (source.data[i] = (i * 2654435761) >>> (depth === 8 ? 24 : 16)));
      for (const scale of [0.9, 2.2]) {
        const m = turned(23, scale, 9, -4);
        const target = { x: 0, y: 0, width: 20, height: 20 };
        const { values, valid, colours } = sampleAffine((b) => crop(source, b), size, m, target);
        const stretch = Math.max(1, Math.sqrt(Math.abs(m.a * m.d - m.b * m.c)));
        const box = sourceBox(m, target, W, H);
        valid.forEach((v, i) => {
          if (!v) return;
          const [px, py] = applyAffine(m, (i % 20) + 0.5, Math.floor(i / 20) + 0.5);
          // Places within the box that is read, as the box is all there is.
          const [x, y] = [px - 0.5 - box.x, py - 0.5 - box.y];
          for (let c = 0; c < colours; c++) {
            let [sum, total] = [0, 0];
            for (let q = Math.floor(y - 2 * stretch) + 1; q < y + 2 * stretch; q++)
              for (let p = Math.floor(x - 2 * stretch) + 1; p < x + 2 * stretch; p++) {
                const w = cubic(Math.abs(q - y) / stretch) * cubic(Math.abs(p - x) / stretch);
                const column = Math.min(box.width - 1, Math.max(0, p)) + box.x;
                const row = Math.min(box.height - 1, Math.max(0, q)) + box.y;
                total += w;
                sum += w * source.data[(row * W + column) * channels + c];
              }
            expect(values[i * colours + c]).toBe(Math.fround(sum / total));
          }
        });
      }
    },
  );
});
