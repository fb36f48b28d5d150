import { ciede2000 } from '../tone/lab.ts';
import { meanAt, type Band, type Lab } from './band.ts';

/** Columns that are taken together, px from the border. */
const BINS = {
  heart: [-26, -16],
  deeper: [-15, -9],
  inside: [-8, -2],
  near: [2, 8],
  farther: [9, 15],
  far: [16, 26],
} as const;
export type Bin = keyof typeof BINS;

/** Rows to both sides that are taken together. */
const TOGETHER = 5;

/** Tone along a border, by distance from it: evened along it, null where too little is known. */
export type Tones = Record<Bin, Array<Lab | null>>;

/** Means of rows around each row of a closed line. */
export function together(rows: Array<Lab | null>, reach: number): Array<Lab | null> {
  const n = rows.length;
  const sum = [0, 0, 0];
  let count = 0;
  const add = (i: number, sign: 1 | -1) => {
    const v = rows[((i % n) + n) % n];
    if (!v) return;
    count += sign;
    for (let c = 0; c < 3; c++) sum[c] += sign * v[c];
  };
  const wide = Math.min(reach, (n - 1) >> 1);
  for (let i = -wide; i < wide; i++) add(i, 1);
  return rows.map((_, i) => {
    add(i + wide, 1);
    const out: Lab | null = count > wide ? [sum[0] / count, sum[1] / count, sum[2] / count] : null;
    add(i - wide, -1);
    return out;
  });
}

/** Tone by distance from the border. */
export function tonesOf(band: Band): Tones {
  const of = (bin: Bin) => {
    const [from, to] = BINS[bin];
    const rows = Array.from({ length: band.rows }, (_, row) => {
      const mean = meanAt(band, row, from, to);
      // Of what is thin there is no more inside.
      return mean ?? (bin === 'inside' ? meanAt(band, row, -4, -1) : null);
    });
    return together(rows, TOGETHER);
  };
  return {
    heart: of('heart'),
    deeper: of('deeper'),
    inside: of('inside'),
    near: of('near'),
    farther: of('farther'),
    far: of('far'),
  };
}

const known = new WeakMap<Band, Tones>();
/** {@link tonesOf}, worked out once. */
export function tonesAlong(band: Band): Tones {
  const tones = known.get(band) ?? tonesOf(band);
  known.set(band, tones);
  return tones;
}

/** Difference of two tones; NaN where one is not known. */
export const apart = (p: Lab | null, q: Lab | null): number => (p && q ? ciede2000(p, q) : NaN);

/** Largest of a list around each sample of a closed line. */
export function largestAround(list: ArrayLike<number>, reach: number): Float32Array {
  const n = list.length;
  return Float32Array.from({ length: n }, (_, i) => {
    let most = 0;
    for (let k = -reach; k <= reach; k++) {
      const v = list[(((i + k) % n) + n) % n];
      if (v > most) most = v;
    }
    return most;
  });
}
