/** Radius in px of the neighbourhood that predicts a pixel. */
export const MODEL_RADIUS = 5;
/** Samples below which a tile says nothing by itself. */
export const MIN_SAMPLES = 60;
/** How strongly a model is held to the membrane, against what its samples would have. */
const RIDGE = 0.6;

/** The half plane of offsets within the radius: each stands for itself and its mirror image. */
function halfDisc(radius: number): Array<[number, number]> {
  const out: Array<[number, number]> = [
    [1, 0],
    [0, 1],
  ];
  for (let y = 0; y <= radius; y++) {
    for (let x = -radius; x <= radius; x++) {
      if (y === 0 && x <= 0) continue;
      if (x * x + y * y > radius * radius + 1) continue;
      if ((x === 1 && y === 0) || (x === 0 && y === 1)) continue;
      out.push([x, y]);
    }
  }
  return out;
}

/** One of each pair of neighbours; the other one lies opposite. */
export const OFFSETS = halfDisc(MODEL_RADIUS);
/** Pairs of neighbours that predict a pixel. */
export const K = OFFSETS.length;
/** Sums that a model is fitted from. */
export const MOMENTS = (K * (K + 1)) / 2 + K;
const FREQUENCIES = 12;

/** For a grid of frequencies: 1 − mean cosine of the direct neighbours, and (that mean − cosine) of each offset. */
const SYMBOLS = (() => {
  const membrane: number[] = [];
  const terms: Float64Array[] = [];
  for (let v = -FREQUENCIES; v <= FREQUENCIES; v++) {
    for (let u = 0; u <= FREQUENCIES; u++) {
      if ((u === 0 && v <= 0) || (v === -FREQUENCIES && u < FREQUENCIES)) continue;
      const wx = (Math.PI * u) / FREQUENCIES;
      const wy = (Math.PI * v) / FREQUENCIES;
      const mean = (Math.cos(wx) + Math.cos(wy)) / 2;
      membrane.push(1 - mean);
      terms.push(Float64Array.from(OFFSETS, ([x, y]) => mean - Math.cos(wx * x + wy * y)));
    }
  }
  return { membrane, terms };
})();

/** Solves A x = b for symmetric positive definite A (row-major k × k, destroyed). Returns false when it is not. */
function cholesky(a: Float64Array, b: Float64Array, k: number): boolean {
  for (let i = 0; i < k; i++) {
    for (let j = 0; j <= i; j++) {
      let s = a[i * k + j];
      for (let m = 0; m < j; m++) s -= a[i * k + m] * a[j * k + m];
      if (i === j) {
        if (!(s > 0)) return false;
        a[i * k + i] = Math.sqrt(s);
      } else a[i * k + j] = s / a[j * k + j];
    }
  }
  for (let i = 0; i < k; i++) {
    let s = b[i];
    for (let m = 0; m < i; m++) s -= a[i * k + m] * b[m];
    b[i] = s / a[i * k + i];
  }
  for (let i = k - 1; i >= 0; i--) {
    let s = b[i];
    for (let m = i + 1; m < k; m++) s -= a[m * k + i] * b[m];
    b[i] = s / a[i * k + i];
  }
  return true;
}

/**
 * Largest share of the fitted departure from the membrane that keeps the model stable: its spectral symbol must stay
 * below that of a unit root at every frequency, with some room.
 */
function stableShare(a: Float64Array): number {
  let share = 1;
  for (let f = 0; f < SYMBOLS.membrane.length; f++) {
    const term = SYMBOLS.terms[f];
    let g = 0;
    for (let i = 0; i < K; i++) g += a[i] * term[i];
    const room = SYMBOLS.membrane[f] * 0.985;
    if (g < -room) share = Math.min(share, room / -g);
  }
  return share;
}

/** Fits a model to sums of samples: the weights of the K pairs, written to `out` from `at` on; the membrane's where there are too few. */
export function pairWeights(moments: Float64Array, samples: number, out: Float32Array, at: number): void {
  out.fill(0, at, at + K);
  out[at] = out[at + 1] = 0.25;
  if (samples < MIN_SAMPLES) return;
  const a = new Float64Array(K * K);
  const b = new Float64Array(K);
  let m = 0;
  let trace = 0;
  for (let i = 0; i < K; i++) {
    for (let j = 0; j <= i; j++) a[i * K + j] = a[j * K + i] = moments[m++];
    trace += a[i * K + i];
  }
  for (let i = 0; i < K; i++) b[i] = moments[m++];
  const ridge = (trace / K) * RIDGE * Math.min(1, 400 / samples) + samples * 0.02;
  for (let i = 0; i < K; i++) a[i * K + i] += ridge;
  if (!cholesky(a, b, K)) return;
  const share = stableShare(b);
  let sum = 0;
  for (let i = 0; i < K; i++) {
    const w = b[i] * share;
    sum += w;
    out[at + i] = w / 2;
  }
  out[at] += (1 - sum) / 4;
  out[at + 1] += (1 - sum) / 4;
}

/** Sums over the known pixels of a tile: products of what predicts, by rows of the lower triangle, and with what is predicted. */
export interface Moments {
  sums: Float64Array;
  samples: number;
}

/** Mean square of what a tile's model predicts from: how much goes on there. */
export function energyOf({ sums, samples }: Moments): number {
  let trace = 0;
  for (let i = 0, m = 0; i < K; i++, m += i + 1) trace += sums[m];
  return trace / Math.max(1, samples) + 1e-3;
}
