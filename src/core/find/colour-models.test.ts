import { modelsOf, unlikely } from './colour-models.ts';

/** Colours scattered around some, by the Box–Muller method over a small generator. */
function scattered(around: ReadonlyArray<readonly [number, number, number]>, spread: number, each: number) {
  let seed = 3;
  const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
  const normal = () => Math.sqrt(-2 * Math.log(random())) * Math.cos(2 * Math.PI * random());
  const lanes = [0, 1, 2].map(() => new Float32Array(around.length * each));
  around.forEach((colour, k) => {
    for (let n = 0; n < each; n++) for (let c = 0; c < 3; c++) lanes[c][k * each + n] = colour[c] + spread * normal();
  });
  return { lanes, pixels: Array.from({ length: around.length * each }, (_, i) => i) };
}

const AROUND = [
  [20, 0, 0],
  [45, 30, 20],
  [60, -20, 40],
  [80, 5, -30],
  [95, 0, 3],
] as const;

test('colours are found again as many models as there are kinds of them, each about where it is', () => {
  const { lanes, pixels } = scattered(AROUND, 2, 200);
  const models = modelsOf(pixels, lanes);
  expect(models).toHaveLength(5);
  for (const colour of AROUND) {
    const nearest = Math.min(...models.map(({ mean }) => Math.hypot(...mean.map((v, c) => v - colour[c]))));
    expect(nearest).toBeLessThan(1);
  }
});

test('what is like them is likelier than what is not, and the farther off the less', () => {
  const { lanes, pixels } = scattered(AROUND, 2, 200);
  const models = modelsOf(pixels, lanes);
  const at = (L: number, a: number, b: number) => unlikely(models, L, a, b);
  expect(at(45, 30, 20)).toBeLessThan(at(45, 20, 20));
  expect(at(45, 20, 20)).toBeLessThan(at(45, 10, 20));
  // Far away it stays a number.
  expect(Number.isFinite(at(0, 120, -120))).toBe(true);
  expect(at(0, 120, -120)).toBeGreaterThan(60);
});

test('grain is no other colour: a single tone takes in what is a few units off', () => {
  const { lanes, pixels } = scattered([[50, 0, 0]], 0.01, 400);
  const models = modelsOf(pixels, lanes);
  expect(unlikely(models, 52, 0, 0) - unlikely(models, 50, 0, 0)).toBeLessThan(1);
  expect(unlikely(models, 70, 0, 0) - unlikely(models, 50, 0, 0)).toBeGreaterThan(10);
});

test('the inverse of a covariance is one: a colour as far off as its spread costs half a unit', () => {
  const { lanes, pixels } = scattered([[50, 0, 0]], 6, 4000);
  const models = modelsOf(pixels, lanes);
  // Parted by lightness, taken together they are as wide as what was scattered, and what is least counts by its size.
  expect(models.length).toBeGreaterThan(1);
  const shares = models.map(({ least, inverse }) => {
    const [a, b, c, d, e, f, g, h, i] = inverse;
    const determinant = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
    return Math.exp(-least - 0.5 * Math.log(determinant));
  });
  expect(shares.reduce((s, v) => s + v, 0)).toBeCloseTo(1, 3);
});
