import { withKernels } from '../kernels/memory.ts';
import { HALF, Likeness } from './likeness.ts';

const [width, height] = [64, 48];

/** Ground that varies, with a part of it once more elsewhere, and a part mirrored. */
function planes(): { luma: Float32Array; grain: Float32Array } {
  let seed = 7;
  const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
  const luma = Float32Array.from({ length: width * height }, () => 90 + 60 * random());
  for (let v = -9; v <= 9; v++)
    for (let u = -9; u <= 9; u++) {
      luma[(34 + v) * width + 14 + u] = luma[(13 + v) * width + 14 + u] + 12;
      luma[(13 + v) * width + 44 + u] = luma[(13 + v) * width + 14 - u];
    }
  return { luma, grain: luma.map((v, i) => (i % 3 ? v - 120 : 0)) };
}

/** Correlation of lists, as textbooks have it (Pearson). */
function pearson(a: number[], b: number[]): number {
  const mean = (list: number[]) => list.reduce((s, v) => s + v, 0) / list.length;
  const [ma, mb] = [mean(a), mean(b)];
  const sum = (of: (n: number) => number) => a.reduce((s, _, n) => s + of(n), 0);
  const [aa, bb] = [sum((n) => (a[n] - ma) ** 2), sum((n) => (b[n] - mb) ** 2)];
  return sum((n) => (a[n] - ma) * (b[n] - mb)) / Math.sqrt(aa * bb);
}

const around = (plane: Float32Array, x: number, y: number, mirror: 1 | -1, every: number): number[] => {
  const out: number[] = [];
  for (let v = -HALF; v <= HALF; v += every)
    for (let u = -HALF; u <= HALF; u++) out.push(plane[(y + v) * width + x + mirror * u]);
  return out;
};

test('correlations are those of Pearson, whole, by rows and mirrored', () => {
  const { luma, grain } = planes();
  withKernels((kernels) => {
    const likeness = new Likeness(kernels, { width, height, luma, grain });
    for (const [of, plane] of [
      ['luma', luma],
      ['grain', grain],
    ] as const)
      for (const mirror of [1, -1] as const)
        for (const every of [1, 2]) {
          const { r, varies } = likeness.correlation(of, [15, 14], [40, 30], mirror, every);
          const [a, b] = [around(plane, 15, 14, 1, every), around(plane, 40, 30, mirror, every)];
          expect(r).toBeCloseTo(pearson(a, b), 4);
          const spread = (list: number[]) => Math.sqrt(pearsonSpread(list));
          expect(varies).toBeCloseTo(Math.min(spread(a), spread(b)), 2);
        }
  });
});

const pearsonSpread = (list: number[]): number => {
  const mean = list.reduce((s, v) => s + v, 0) / list.length;
  return list.reduce((s, v) => s + (v - mean) ** 2, 0) / list.length;
};

test('at the edge of a plane what lies within it is compared', () => {
  const { luma, grain } = planes();
  withKernels((kernels) => {
    const likeness = new Likeness(kernels, { width, height, luma, grain });
    const { r } = likeness.correlation('luma', [3, 14], [40, 30], 1, 1);
    const [a, b]: number[][] = [[], []];
    for (let v = -HALF; v <= HALF; v++)
      for (let u = -3; u <= HALF; u++) {
        a.push(luma[(14 + v) * width + 3 + u]);
        b.push(luma[(30 + v) * width + 40 + u]);
      }
    expect(r).toBeCloseTo(pearson(a, b), 4);
  });
});

test('a place is found again where it was laid in, a px beside, lighter or mirrored', () => {
  const { luma, grain } = planes();
  withKernels((kernels) => {
    const likeness = new Likeness(kernels, { width, height, luma, grain });
    likeness.take({ x: 14, y: 13 }, 1);
    expect(likeness.likestBeside({ x: 15, y: 33 }, 0.9)).toEqual({ x: 14, y: 34 });
    expect(likeness.likestBeside({ x: 44, y: 13 }, 0.9)).toBeNull();
    likeness.take({ x: 14, y: 13 }, -1);
    expect(likeness.likestBeside({ x: 43, y: 14 }, 0.9)).toEqual({ x: 44, y: 13 });
  });
});
