/** Colour models to each side. */
const MODELS = 5;
/** CIELAB units below which a model takes no colour for another: grain is no other colour. */
const LEAST_SPREAD = 3;

/** A normal distribution of colours. */
export interface Model {
  /** minus the logarithm of its share and of its spread */
  least: number;
  mean: number[];
  /** the inverse of its covariance, by rows */
  inverse: number[];
}

/** Parts colours among models by where they lie, k-means begun along lightness. */
function clusters(pixels: readonly number[], lanes: readonly Float32Array[]): Int8Array {
  const sorted = [...pixels].sort((a, b) => lanes[0][a] - lanes[0][b]);
  const centres = Array.from({ length: MODELS }, (_, k) => {
    const i = sorted[Math.floor(((k + 0.5) * sorted.length) / MODELS)];
    return lanes.map((lane) => lane[i]);
  });
  const of = new Int8Array(pixels.length);
  for (let round = 0; round < 8; round++) {
    const sums = centres.map(() => [0, 0, 0, 0]);
    pixels.forEach((i, n) => {
      let [best, least] = [0, Infinity];
      for (let k = 0; k < MODELS; k++) {
        const [L, a, b] = centres[k];
        const d = (lanes[0][i] - L) ** 2 + (lanes[1][i] - a) ** 2 + (lanes[2][i] - b) ** 2;
        if (d < least) [best, least] = [k, d];
      }
      of[n] = best;
      lanes.forEach((lane, c) => (sums[best][c] += lane[i]));
      sums[best][3]++;
    });
    sums.forEach((s, k) => s[3] && (centres[k] = [s[0] / s[3], s[1] / s[3], s[2] / s[3]]));
  }
  return of;
}

/** The inverse and the determinant of a symmetric matrix of 3 × 3. */
function inverted([a, b, c, , d, e, , , f]: number[]): { inverse: number[]; determinant: number } {
  const [A, B, C] = [d * f - e * e, c * e - b * f, b * e - c * d];
  const determinant = a * A + b * B + c * C;
  const [D, E, F] = [a * f - c * c, b * c - a * e, a * d - b * b];
  return { inverse: [A, B, C, B, D, E, C, E, F].map((v) => v / determinant), determinant };
}

/** Colours as normal distributions. */
export function modelsOf(pixels: readonly number[], lanes: readonly Float32Array[]): Model[] {
  const of = clusters(pixels, lanes);
  const out: Model[] = [];
  for (let k = 0; k < MODELS; k++) {
    const own = pixels.filter((_, n) => of[n] === k);
    if (own.length < 8) continue;
    const mean = lanes.map((lane) => own.reduce((s, i) => s + lane[i], 0) / own.length);
    const m = [0, 1, 2].flatMap((r) =>
      [0, 1, 2].map((c) => {
        const sum = own.reduce((s, i) => s + (lanes[r][i] - mean[r]) * (lanes[c][i] - mean[c]), 0);
        return sum / own.length + (r === c ? LEAST_SPREAD ** 2 : 0);
      }),
    );
    const { inverse, determinant } = inverted(m);
    out.push({ least: -Math.log(own.length / pixels.length) + 0.5 * Math.log(determinant), mean, inverse });
  }
  return out;
}

/** How little a colour is of models: minus the logarithm of how likely it is. */
export function unlikely(models: readonly Model[], L: number, a: number, b: number): number {
  let sum = 0;
  for (const { least, mean, inverse } of models) {
    const [x, y, z] = [L - mean[0], a - mean[1], b - mean[2]];
    const far =
      x * (inverse[0] * x + inverse[1] * y + inverse[2] * z) +
      y * (inverse[3] * x + inverse[4] * y + inverse[5] * z) +
      z * (inverse[6] * x + inverse[7] * y + inverse[8] * z);
    sum += Math.exp(-least - far / 2);
  }
  return -Math.log(sum + 1e-30);
}
