/** Weights of the pixels that a target pixel is read from, a few each, the first at `from`. */
export interface Taps {
  from: Int32Array;
  count: Int32Array;
  weights: Float32Array;
  /** most that one has */
  size: number;
}

/** Catmull and Rom's cubic, which leaves straight gradients straight. Source: Keys 1981, a = −1/2. */
function cubic(t: number): number {
  const x = Math.abs(t);
  if (x >= 2) return 0;
  return x < 1 ? (1.5 * x - 2.5) * x * x + 1 : ((-0.5 * x + 2.5) * x - 4) * x + 2;
}

/**
 * Weights to read pixels at places of an axis.
 * @param at places, px centres at whole numbers
 * @param wide how wide a source px is in the target there: under 1 more of them are read together
 * @param length px of the source, whose ends are carried on
 */
export function tapsOf(at: Float64Array, wide: Float64Array, length: number): Taps {
  const least = wide.reduce((a, b) => Math.min(a, b), 1);
  const size = 2 * Math.ceil(2 / least) + 1;
  const n = at.length;
  const taps: Taps = {
    from: new Int32Array(n),
    count: new Int32Array(n),
    weights: new Float32Array(n * size),
    size,
  };
  for (let k = 0; k < n; k++) {
    const place = Math.min(length - 1, Math.max(0, at[k]));
    const nearest = Math.round(place);
    if (Math.abs(place - nearest) < 1e-6) {
      taps.from[k] = nearest;
      taps.count[k] = 1;
      taps.weights[k * size] = 1;
      continue;
    }
    const reach = 2 / Math.min(1, wide[k]);
    const from = Math.max(0, Math.ceil(place - reach));
    const to = Math.min(length - 1, Math.floor(place + reach));
    let sum = 0;
    for (let i = from; i <= to; i++) sum += taps.weights[k * size + i - from] = cubic(((i - place) * 2) / reach);
    for (let i = from; i <= to; i++) taps.weights[k * size + i - from] /= sum;
    taps.from[k] = from;
    taps.count[k] = to - from + 1;
  }
  return taps;
}

/** Reads a row of `channels` lanes along an axis. */
export function readRow(
  row: ArrayLike<number>,
  start: number,
  channels: number,
  { from, count, weights, size }: Taps,
  out: Float32Array,
): void {
  for (let k = 0, o = 0; k < from.length; k++) {
    const first = start + from[k] * channels;
    const w = k * size;
    for (let c = 0; c < channels; c++, o++) {
      let sum = 0;
      for (let j = 0, p = first + c; j < count[k]; j++, p += channels) sum += weights[w + j] * row[p];
      out[o] = sum;
    }
  }
}
