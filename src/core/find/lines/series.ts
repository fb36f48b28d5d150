import type { Point } from '../../mask/shapes.ts';

export function smoothed(points: readonly Point[], reach: number): Point[] {
  return points.map((_, i) => {
    const r = Math.min(reach, i, points.length - 1 - i);
    let x = 0;
    let y = 0;
    for (let j = i - r; j <= i + r; j++) {
      x += points[j][0];
      y += points[j][1];
    }
    return [x / (2 * r + 1), y / (2 * r + 1)];
  });
}

export const meanOf = (list: ArrayLike<number>): number => {
  let s = 0;
  for (let i = 0; i < list.length; i++) s += list[i];
  return s / Math.max(1, list.length);
};

export const deviationOf = (list: ArrayLike<number>): number => {
  const m = meanOf(list);
  let s = 0;
  for (let i = 0; i < list.length; i++) s += (list[i] - m) ** 2;
  return Math.sqrt(s / Math.max(1, list.length));
};

/** Variation from one place to the next: slow shading does not count. */
export const wobbleOf = (list: ArrayLike<number>): number => {
  let s = 0;
  for (let i = 1; i < list.length; i++) s += (list[i] - list[i - 1]) ** 2;
  return Math.sqrt(s / Math.max(1, list.length - 1) / 2);
};

export const correlationOf = (a: ArrayLike<number>, b: ArrayLike<number>): number => {
  const [ma, mb] = [meanOf(a), meanOf(b)];
  let [ab, aa, bb] = [0, 0, 0];
  for (let i = 0; i < a.length; i++) {
    ab += (a[i] - ma) * (b[i] - mb);
    aa += (a[i] - ma) ** 2;
    bb += (b[i] - mb) ** 2;
  }
  return ab / (Math.sqrt(aa * bb) + 1e-6);
};

/** Sums over the first 0, 1, 2 … rows of `width` values each, so that those of any run of rows are a difference. */
export class Sums {
  private readonly totals: Float64Array;
  constructor(
    private readonly width: number,
    rows: number,
  ) {
    this.totals = new Float64Array((rows + 1) * width);
  }
  /** Enters the next row; rows are entered in order. */
  enter(row: number, values: ArrayLike<number>): void {
    const { totals, width } = this;
    for (let c = 0, at = row * width; c < width; c++, at++) totals[at + width] = totals[at] + values[c];
  }
  /** Sum of a column over rows `from` to `to` − 1. */
  over(from: number, to: number, column = 0): number {
    return this.totals[to * this.width + column] - this.totals[from * this.width + column];
  }
  /** Means of all columns over rows `from` to `to` − 1. */
  means(from: number, to: number): Float64Array {
    const { totals, width } = this;
    const out = new Float64Array(width);
    for (let c = 0, a = from * width, b = to * width; c < width; c++, a++, b++)
      out[c] = (totals[b] - totals[a]) / (to - from);
    return out;
  }
}
