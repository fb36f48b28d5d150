/**
 * Fast Fourier transform of a square of complex numbers, in place; the side a power of two.
 * Source: Cooley & Tukey, "An Algorithm for the Machine Calculation of Complex Fourier Series", 1965.
 */
export function fourier2(re: Float32Array, im: Float32Array, side: number): void {
  for (let y = 0; y < side; y++) transform(re, im, y * side, 1, side);
  for (let x = 0; x < side; x++) transform(re, im, x, side, side);
}

const turns = new Map<number, Float64Array>();

/** Cosine and sine of every step around a circle of `n`. */
function turnsOf(n: number): Float64Array {
  let out = turns.get(n);
  if (!out) {
    out = new Float64Array(n);
    for (let k = 0; k < n / 2; k++) {
      out[2 * k] = Math.cos((-2 * Math.PI * k) / n);
      out[2 * k + 1] = Math.sin((-2 * Math.PI * k) / n);
    }
    turns.set(n, out);
  }
  return out;
}

function transform(re: Float32Array, im: Float32Array, from: number, stride: number, n: number): void {
  const turn = turnsOf(n);
  for (let i = 1, j = 0; i < n; i++) {
    let bit = n >> 1;
    for (; j & bit; bit >>= 1) j ^= bit;
    j ^= bit;
    if (i >= j) continue;
    const a = from + i * stride;
    const b = from + j * stride;
    const [r, m] = [re[a], im[a]];
    re[a] = re[b];
    im[a] = im[b];
    re[b] = r;
    im[b] = m;
  }
  for (let size = 2; size <= n; size <<= 1) {
    const half = size >> 1;
    const step = (2 * n) / size;
    for (let k = 0; k < half; k++) {
      const c = turn[k * step];
      const s = turn[k * step + 1];
      for (let i = k; i < n; i += size) {
        const a = from + i * stride;
        const b = a + half * stride;
        const r = re[b] * c - im[b] * s;
        const m = re[b] * s + im[b] * c;
        re[b] = re[a] - r;
        im[b] = im[a] - m;
        re[a] += r;
        im[a] += m;
      }
    }
  }
}

/** Autocorrelations of two squares of real numbers, taken around their ends; the side a power of two. */
export function autocorrelations(
  first: Float32Array,
  second: Float32Array,
  side: number,
): [Float32Array, Float32Array] {
  // Both at once, as real and imaginary part; their power is symmetric, so that they come back apart.
  const re = first.slice();
  const im = second.slice();
  fourier2(re, im, side);
  const n = side * side;
  const a = new Float32Array(n);
  const b = new Float32Array(n);
  for (let y = 0; y < side; y++) {
    for (let x = 0; x < side; x++) {
      const i = y * side + x;
      const j = ((side - y) % side) * side + ((side - x) % side);
      const [r, m] = [(re[i] + re[j]) / 2, (im[i] - im[j]) / 2];
      const [s, t] = [(im[i] + im[j]) / 2, (re[j] - re[i]) / 2];
      a[i] = (r * r + m * m) / n;
      b[i] = (s * s + t * t) / n;
    }
  }
  fourier2(a, b, side);
  return [a, b];
}
