import { colourChannels, fullScale, type Raster } from './raster.ts';

/** Luma (Rec. 709 weights on the stored values) on the 8-bit scale, one float a pixel. */
export function lumaPlane(picture: Raster): Float32Array {
  const { width, height, channels, data } = picture;
  const scale = 255 / fullScale(picture.depth);
  const out = new Float32Array(width * height);
  if (colourChannels(channels) === 1) for (let i = 0; i < out.length; i++) out[i] = data[i * channels] * scale;
  else
    for (let i = 0, p = 0; i < out.length; i++, p += channels)
      out[i] = (0.2126 * data[p] + 0.7152 * data[p + 1] + 0.0722 * data[p + 2]) * scale;
  return out;
}

/** One of the channels of a picture in colours, on the 8-bit scale, one float a pixel. */
export function channelPlane({ width, height, channels, depth, data }: Raster, channel: number): Float32Array {
  const scale = 255 / fullScale(depth);
  const out = new Float32Array(width * height);
  for (let i = 0, p = channel; i < out.length; i++, p += channels) out[i] = data[p] * scale;
  return out;
}

/** One channel of floats, width × height. */
export interface Plane {
  width: number;
  height: number;
  data: Float32Array;
}

/** Half the size: the mean of 2 × 2 px; an odd last row or column stands alone. */
export function halfPlane({ width, height, data }: Plane): Plane {
  const w = (width + 1) >> 1;
  const h = (height + 1) >> 1;
  const out = new Float32Array(w * h);
  for (let y = 0; y < h; y++) {
    const r0 = 2 * y * width;
    const r1 = Math.min(2 * y + 1, height - 1) * width;
    for (let x = 0; x < w; x++) {
      const x0 = 2 * x;
      const x1 = Math.min(x0 + 1, width - 1);
      out[y * w + x] = (data[r0 + x0] + data[r0 + x1] + data[r1 + x0] + data[r1 + x1]) / 4;
    }
  }
  return { width: w, height: h, data: out };
}

/** Twice the size, between the px of which it is linear. */
export function doublePlane({ width, height, data }: Plane): Plane {
  const out = new Float32Array(4 * width * height);
  /** of a place at twice the size: the px before and after it, and how far it is from the first */
  const between = (at: number, n: number) => {
    const v = Math.min(n - 1, Math.max(0, (at - 0.5) / 2));
    const first = Math.floor(v);
    return [first, Math.min(n - 1, first + 1), v - first] as const;
  };
  for (let y = 0, i = 0; y < 2 * height; y++) {
    const [y0, y1, down] = between(y, height);
    for (let x = 0; x < 2 * width; x++, i++) {
      const [x0, x1, across] = between(x, width);
      const row = (r: number) => data[r * width + x0] * (1 - across) + data[r * width + x1] * across;
      out[i] = row(y0) * (1 - down) + row(y1) * down;
    }
  }
  return { width: 2 * width, height: 2 * height, data: out };
}

/** Mean over a square of (2 radius + 1)² px; beyond the edge nothing counts. Costs the same for every radius. */
export function boxMean({ width, height, data }: Plane, radius: number): Plane {
  const mid = new Float32Array(data.length);
  const out = new Float32Array(data.length);
  for (let y = 0; y < height; y++) {
    const row = y * width;
    let sum = 0;
    for (let x = 0; x < Math.min(radius, width); x++) sum += data[row + x];
    for (let x = 0; x < width; x++) {
      if (x + radius < width) sum += data[row + x + radius];
      if (x - radius - 1 >= 0) sum -= data[row + x - radius - 1];
      mid[row + x] = sum / (Math.min(width - 1, x + radius) - Math.max(0, x - radius) + 1);
    }
  }
  const sums = new Float64Array(width);
  for (let y = 0; y < Math.min(radius, height); y++) for (let x = 0; x < width; x++) sums[x] += mid[y * width + x];
  for (let y = 0; y < height; y++) {
    const add = y + radius < height ? (y + radius) * width : -1;
    const drop = y - radius - 1 >= 0 ? (y - radius - 1) * width : -1;
    const n = Math.min(height - 1, y + radius) - Math.max(0, y - radius) + 1;
    for (let x = 0; x < width; x++) {
      if (add >= 0) sums[x] += mid[add + x];
      if (drop >= 0) sums[x] -= mid[drop + x];
      out[y * width + x] = sums[x] / n;
    }
  }
  return { width, height, data: out };
}

/** The middle one of a list, of two the upper; 0 of an empty one. */
export const median = (list: readonly number[]): number => [...list].sort((a, b) => a - b)[list.length >> 1] ?? 0;

/** The value below which `share` of a list lies. Sorts a copy. */
export function quantile(values: ArrayLike<number>, share: number): number {
  const sorted = new Float32Array(values).sort();
  return sorted.length ? sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))] : 0;
}

/**
 * {@link quantile} 0.5 of the first `n` values of a list, none of them NaN, which is put into another order.
 * Source: Hoare, "Algorithm 65: Find", 1961.
 */
export function medianOf(values: Float32Array, n: number): number {
  const at = n >> 1;
  let [low, high] = [0, n - 1];
  while (low < high) {
    const pivot = values[at];
    let [i, j] = [low, high];
    do {
      while (values[i] < pivot) i++;
      while (pivot < values[j]) j--;
      if (i <= j) {
        const v = values[i];
        values[i++] = values[j];
        values[j--] = v;
      }
    } while (i <= j);
    if (j < at) low = i;
    if (at < i) high = j;
  }
  return values[at];
}

const histogram = new Int32Array(1024);

/** {@link quantile} of levels 0…255 to a quarter of a level, in one pass and without sorting. */
export function levelQuantiles(values: ArrayLike<number>, shares: readonly number[]): number[] {
  histogram.fill(0);
  for (let i = 0; i < values.length; i++) histogram[Math.min(1023, Math.max(0, Math.floor(values[i] * 4)))]++;
  return shares.map((share) => {
    const at = Math.min(values.length - 1, Math.floor(share * values.length));
    let n = 0;
    for (let k = 0; k < 1024; k++) {
      n += histogram[k];
      if (n > at) return (k + 0.5) / 4;
    }
    return 0;
  });
}

/**
 * Standard deviation of the finest noise of a picture, robust against its detail: median absolute value of a
 * second-difference filter. Source: Immerkær, "Fast Noise Variance Estimation", 1996, with the median in place of the mean.
 */
export function noiseLevel({ width, height, data }: Plane): number {
  const values: number[] = [];
  const step = Math.max(1, Math.floor(Math.sqrt((width * height) / 200_000)));
  for (let y = 1; y < height - 1; y += step) {
    for (let x = 1; x < width - 1; x += step) {
      const i = y * width + x;
      const v =
        4 * data[i] -
        2 * (data[i - 1] + data[i + 1] + data[i - width] + data[i + width]) +
        data[i - width - 1] +
        data[i - width + 1] +
        data[i + width - 1] +
        data[i + width + 1];
      values.push(Math.abs(v));
    }
  }
  return quantile(values, 0.5) / (6 * 0.6745);
}
