import type { TracedStrand } from '../traced-strand.ts';
import type { Point } from '../../../mask/shapes.ts';
import { inside, place, STEP, type Family } from './family.ts';

/** Steps to both sides over which a strand is compared with what is around it, and by how many times it must stand out. */
const CLOSE = 8;
const CLEAR = 2.5;

/** A strand of a family as a function: offset across (v) for each step along (u). */
export interface Course {
  v: Float32Array;
  /** 1 where it was seen, 0 where it is only supposed */
  seen: Uint8Array;
  /** steps at which it lies on the picture */
  from: number;
  to: number;
  /** where it was looked for, as far as it was */
  expected?: Float32Array;
}

/** A traced strand as a course, on as far as it was traced. */
export function courseOf(f: Family, { points }: TracedStrand): Course {
  const v = new Float32Array(f.steps).fill(NaN);
  const line = points.map(([x, y]): Point => [x * f.ax + y * f.ay, -x * f.ay + y * f.ax]).sort((p, q) => p[0] - q[0]);
  let k = 0;
  let from = f.steps;
  let to = -1;
  for (let s = 0; s < f.steps; s++) {
    const u = f.u0 + s * STEP;
    if (u < line[0][0] || u > line[line.length - 1][0]) continue;
    while (k < line.length - 2 && line[k + 1][0] < u) k++;
    const [a, b] = [line[k], line[k + 1]];
    const t = b[0] > a[0] ? (u - a[0]) / (b[0] - a[0]) : 0;
    v[s] = a[1] + (b[1] - a[1]) * Math.min(1, Math.max(0, t));
    from = Math.min(from, s);
    to = Math.max(to, s);
  }
  return { v, seen: new Uint8Array(f.steps).fill(1, Math.max(0, from), to + 1), from, to };
}

/**
 * The best way through a band around where a strand is expected: what stands out most, turning little.
 * Dynamic programming over offsets of half a px.
 */
export function follow(
  f: Family,
  expected: Float32Array,
  from: number,
  to: number,
  band: number,
  start?: number,
): Course {
  const reach = Math.max(2, Math.round(band * 2));
  const states = 2 * reach + 1;
  const length = to - from + 1;
  const cost = new Float32Array(length * states);
  const strength = new Float32Array(length * states);
  // A line of samples across, half a px apart, from which every state's middle and sides are taken.
  const half = Math.max(1, Math.round(f.width / 2 - 0.5));
  const far = Math.round(f.width + 5);
  const wide = Math.round(f.width + 9);
  const pad = wide + 1;
  const samples = new Float32Array(states + 2 * pad);
  const sums = new Float64Array(samples.length + 1);
  for (let n = 0; n < length; n++) {
    for (let j = 0; j < samples.length; j++) {
      const [x, y] = place(f, from + n, expected[from + n] + (j - pad - reach) / 2);
      samples[j] = f.read(x, y);
      sums[j + 1] = sums[j] + samples[j];
    }
    const mean = (a: number, b: number) => (sums[b + 1] - sums[a]) / (b - a + 1);
    for (let k = 0; k < states; k++) {
      const c = k + pad;
      const middle = mean(c - half, c + half);
      const left = mean(c - wide, c - far);
      const right = mean(c + far, c + wide);
      const off = Math.abs(middle - f.tone) / f.tolerance;
      const like = off < 1 ? 1 : Math.max(0, 2 - off);
      const r = like * Math.max(Math.min(left, right) - middle, middle - Math.max(left, right));
      strength[n * states + k] = r;
      cost[n * states + k] = 7 / (7 + Math.max(0, r)) + (0.12 * Math.abs(k - reach)) / reach;
    }
  }
  let total = new Float32Array(states);
  if (start !== undefined)
    total.forEach((_, k) => (total[k] = 0.5 * Math.abs(expected[from] + (k - reach) / 2 - start)));
  const cameFrom = new Int16Array(length * states);
  for (let n = 0; n < length; n++) {
    const next = new Float32Array(states).fill(Infinity);
    for (let k = 0; k < states; k++) {
      for (let j = Math.max(0, k - 2); j <= Math.min(states - 1, k + 2); j++) {
        const c = total[j] + 0.16 * Math.abs(k - j);
        if (c < next[k]) {
          next[k] = c;
          cameFrom[n * states + k] = j;
        }
      }
      next[k] += cost[n * states + k];
    }
    total = next;
  }
  let k = total.indexOf(Math.min(...total));
  const v = new Float32Array(f.steps).fill(NaN);
  const seen = new Uint8Array(f.steps);
  const busy = new Float32Array(length);
  const shown = new Float32Array(length);
  const own = Math.round(2 * f.width);
  for (let n = length - 1; n >= 0; n--) {
    v[from + n] = expected[from + n] + (k - reach) / 2;
    shown[n] = strength[n * states + k];
    let count = 0;
    for (let j = 0; j < states; j++) {
      if (Math.abs(j - k) <= own) continue;
      busy[n] += Math.max(0, strength[n * states + j]);
      count++;
    }
    busy[n] /= Math.max(1, count);
    k = cameFrom[n * states + k];
  }
  // What stands out no more than other things around it do is no strand that can be seen.
  for (let n = 0; n < length; n++) {
    const a = Math.max(0, n - CLOSE);
    const b = Math.min(length - 1, n + CLOSE);
    let [sum, around] = [0, 0];
    for (let m = a; m <= b; m++) {
      sum += Math.max(0, shown[m]);
      around += busy[m];
    }
    seen[from + n] = shown[n] > 4 && sum > CLEAR * around ? 1 : 0;
  }
  return { v, seen, from, to, expected };
}

/** Goes on from both ends of a traced strand to the picture's edges, piece by piece in the direction it has there. */
export function extended(f: Family, course: Course, spacing: number): Course {
  const v = course.v.slice();
  const seen = course.seen.slice();
  let { from, to } = course;
  const piece = Math.max(8, Math.round((0.8 * spacing) / STEP));
  for (const side of [1, -1] as const) {
    for (;;) {
      const end = side > 0 ? to : from;
      const back = Math.min(to - from, Math.round(90 / STEP));
      if (back < 2) break;
      const slope = (v[end] - v[end - side * back]) / back;
      let last = end;
      const expected = new Float32Array(f.steps).fill(NaN);
      for (let n = 1; n <= piece; n++) {
        const s = end + side * n;
        if (s < 0 || s >= f.steps) break;
        expected[s] = v[end] + slope * n;
        if (!inside(f, place(f, s, expected[s]))) break;
        last = s;
      }
      if (last === end) break;
      const [a, b] = side > 0 ? [end + 1, last] : [last, end - 1];
      const run = follow(f, expected, a, b, Math.min(0.25 * spacing, 10), undefined);
      for (let s = a; s <= b; s++) {
        v[s] = run.v[s];
        seen[s] = run.seen[s];
      }
      if (side > 0) to = last;
      else from = last;
    }
  }
  return { v, seen, from, to };
}

/** Goes on straight where a course is not known. */
export function continued(v: Float32Array): Float32Array {
  const first = v.findIndex((x) => x === x);
  if (first < 0) return v;
  let last = v.length - 1;
  while (v[last] !== v[last]) last--;
  const reach = Math.min(40, last - first);
  const front = reach ? (v[first + reach] - v[first]) / reach : 0;
  const back = reach ? (v[last] - v[last - reach]) / reach : 0;
  for (let s = first - 1; s >= 0; s--) v[s] = v[s + 1] - front;
  for (let s = last + 1; s < v.length; s++) v[s] = v[s - 1] + back;
  return v;
}

/** Steps over which a course lies on the picture; null where that is hardly any. */
export function onPicture(f: Family, v: Float32Array): { from: number; to: number } | null {
  let from = -1;
  let to = -1;
  for (let s = 0; s < f.steps; s++) {
    if (v[s] !== v[s] || !inside(f, place(f, s, v[s]))) continue;
    if (from < 0) from = s;
    to = s;
  }
  return to - from < 8 ? null : { from, to };
}

/** Share of a course that is seen. */
export const shareSeen = (c: Course) => {
  let n = 0;
  for (let s = c.from; s <= c.to; s++) n += c.seen[s];
  return n / Math.max(1, c.to - c.from + 1);
};
