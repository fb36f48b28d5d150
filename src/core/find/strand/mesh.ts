import type { Point } from '../../mask/shapes.ts';
import { colourChannels, type Raster } from '../../raster/raster.ts';
import { refineStrand, resizeStrand, scaleFor, usualWidth, type TracedStrand } from './strand.ts';
import { channelPlane, halfPlane, lumaPlane, quantile } from '../../raster/luma.ts';
import { channelReader, planeReader, type Channel } from './straightened-band.ts';

/** px from place to place along a strand, as it is followed. */
const STEP = 3;
/** Share of the spacing in which a strand is looked for around where it is expected. */
const BAND = 0.34;
/** px over which what is seen decides whether a strand is there. */
const SIGHT = 60;
/** px over which a strand is supposed where it is not seen. */
const BRIDGED = 300;
/** Share of places that must be seen there. */
const SEEN = 0.45;

/** Levels by which a strand stands out well enough. */
const ENOUGH = 20;
/** Levels by which a strand may always differ from the tone of its family. */
const LEAST_TOLERANCE = 30;
/** Levels by which a place may differ from the strand's tone so that the strand could lie there unseen. */
const ALIKE = 14;

/** Steps to both sides over which a strand is compared with what is around it, and by how many times it must stand out. */
const CLOSE = 8;
const CLEAR = 2.5;

/** A strand of a family as a function: offset across (v) for each step along (u). */
interface Course {
  v: Float32Array;
  /** 1 where it was seen, 0 where it is only supposed */
  seen: Uint8Array;
  /** steps at which it lies on the picture */
  from: number;
  to: number;
  /** where it was looked for, as far as it was */
  expected?: Float32Array;
}

type Read = (x: number, y: number) => number;

/** Strands that run about one way. */
interface Family {
  /** along, across */
  ax: number;
  ay: number;
  steps: number;
  u0: number;
  width: number;
  read: Read;
  /** level its strands have, and how far off it they may be */
  tone: number;
  tolerance: number;
  size: { width: number; height: number };
  /** the same plane in the picture's own size, and how many px of it a px of this one is */
  full: { read: Read; scale: number };
}

const place = (f: Pick<Family, 'ax' | 'ay' | 'u0'>, step: number, v: number): Point => {
  const u = f.u0 + step * STEP;
  return [f.ax * u - f.ay * v, f.ay * u + f.ax * v];
};
const inside = ({ size }: Family, [x, y]: Point) => x >= 0 && y >= 0 && x < size.width && y < size.height;

/** How much a strand of the family's width stands out at a place from both its sides, levels; the sign does not matter. */
function response(f: Pick<Family, 'ax' | 'ay' | 'u0' | 'width' | 'read'>, step: number, v: number): number {
  const half = Math.max(0.5, f.width / 2 - 0.5);
  const far = f.width / 2 + 2.5;
  const at = (t: number) => {
    const [x, y] = place(f, step, v + t);
    return f.read(x, y);
  };
  const middle = (at(-half * 0.6) + at(0) + at(half * 0.6)) / 3;
  const left = (at(-far) + at(-far - 1.5)) / 2;
  const right = (at(far) + at(far + 1.5)) / 2;
  return Math.max(Math.min(left, right) - middle, middle - Math.max(left, right));
}

/** The family that strands belong to: their common direction and the range they may run over. */
function familyOf(strands: TracedStrand[], seen: Seen): Family {
  const { size, scale } = seen;
  let ax = 0;
  let ay = 0;
  for (const { points } of strands) {
    const [a, b] = [points[0], points[points.length - 1]];
    const sign = (b[0] - a[0]) * ax + (b[1] - a[1]) * ay < 0 ? -1 : 1;
    ax += sign * (b[0] - a[0]);
    ay += sign * (b[1] - a[1]);
  }
  const d = Math.hypot(ax, ay) || 1;
  ax /= d;
  ay /= d;
  const corners: Point[] = [
    [0, 0],
    [size.width, 0],
    [0, size.height],
    [size.width, size.height],
  ];
  const along = corners.map(([x, y]) => x * ax + y * ay);
  const u0 = Math.min(...along);
  const width = usualWidth(strands);
  // Of the channels that one in which the traced strands stand out best: a white fence before a yellow sky does in blue.
  const points = strands.flatMap((s) => s.points);
  const shown = seen.channels.map((channel) => {
    const bare = { ax, ay, u0, width, read: seen.peek(channel) };
    return points.reduce((sum, [x, y]) => {
      const step = (x * ax + y * ay - u0) / STEP;
      return sum + Math.min(ENOUGH, Math.max(0, response(bare, step, y * ax - x * ay)));
    }, 0);
  });
  // Luma is less noisy: another one must be clearly better.
  const best = shown.indexOf(Math.max(...shown));
  const { read, full } = seen.plane(seen.channels[shown[best] > 1.1 * shown[0] ? best : 0]);
  const tones = points.map(([x, y]) => read(x, y));
  const tone = quantile(tones, 0.5);
  const off = quantile(
    tones.map((t) => Math.abs(t - tone)),
    0.5,
  );
  return {
    ax,
    ay,
    u0,
    steps: Math.ceil((Math.max(...along) - u0) / STEP) + 1,
    width,
    read,
    tone,
    tolerance: Math.max(LEAST_TOLERANCE, 4 * off),
    size,
    full: { read: full, scale },
  };
}

/** A traced strand as a course, on as far as it was traced. */
function courseOf(f: Family, { points }: TracedStrand): Course {
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
function follow(f: Family, expected: Float32Array, from: number, to: number, band: number, start?: number): Course {
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
function extended(f: Family, course: Course, spacing: number): Course {
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

/** How many strands lie from one traced strand to another: as many as the picture agrees with at even distances. */
function countBetween(f: Family, a: Course, b: Course): number {
  const from = Math.max(a.from, b.from);
  const to = Math.min(a.to, b.to);
  if (to - from < 6) return 1;
  const share = (t: number) => {
    let sum = 0;
    let n = 0;
    for (let s = from; s <= to; s += 2) {
      let best = 0;
      const slack = 2;
      for (let d = -slack; d <= slack; d++) best = Math.max(best, response(f, s, a.v[s] + (b.v[s] - a.v[s]) * t + d));
      sum += Math.min(20, best);
      n++;
    }
    return sum / n;
  };
  const own = (share(0) + share(1)) / 2;
  const apart = Math.abs(b.v[(from + to) >> 1] - a.v[(from + to) >> 1]);
  for (let k = Math.min(40, Math.floor(apart / (2.5 * f.width + 3))); k > 1; k--) {
    let least = Infinity;
    for (let j = 1; j < k; j++) least = Math.min(least, share(j / k));
    if (least > 0.62 * own) return k;
  }
  return 1;
}

/** Where the next strand is expected: `scale` times the first gap on from the last one. */
function expectedNext(f: Family, last: Course, gap: (s: number) => number, scale: number): Float32Array {
  const out = new Float32Array(f.steps).fill(NaN);
  for (let s = 0; s < f.steps; s++) if (last.v[s] === last.v[s]) out[s] = last.v[s] + gap(s) * scale;
  return continued(out);
}

/** Goes on straight where a course is not known. */
function continued(v: Float32Array): Float32Array {
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

function onPicture(f: Family, v: Float32Array): { from: number; to: number } | null {
  let from = -1;
  let to = -1;
  for (let s = 0; s < f.steps; s++) {
    if (v[s] !== v[s] || !inside(f, place(f, s, v[s]))) continue;
    if (from < 0) from = s;
    to = s;
  }
  return to - from < 8 ? null : { from, to };
}

const shareSeen = (c: Course) => {
  let n = 0;
  for (let s = c.from; s <= c.to; s++) n += c.seen[s];
  return n / Math.max(1, c.to - c.from + 1);
};

/**
 * Polynomial through most of the points: least squares, again and again with less weight for what lies far off.
 * @param order 1 a line, 2 a parabola
 * @returns its value at a step
 * Source: iteratively reweighted least squares with Tukey's biweight (common practice).
 */
function robustFit(at: number[], value: number[], order: 1 | 2): (s: number) => number {
  if (at.length < 4) {
    const mean = value.reduce((p, q) => p + q, 0) / Math.max(1, value.length);
    return () => mean;
  }
  const centre = at.reduce((p, q) => p + q, 0) / at.length;
  const scale = Math.max(1, ...at.map((s) => Math.abs(s - centre)));
  const terms = order + 1;
  let weights = at.map(() => 1);
  let c = new Array<number>(terms).fill(0);
  const evaluate = (s: number) => {
    const t = (s - centre) / scale;
    return c[0] + c[1] * t + (order === 2 ? c[2] * t * t : 0);
  };
  for (let round = 0; round < 8; round++) {
    const m = Array.from({ length: terms }, (_, i) =>
      Array.from({ length: terms + 1 }, (_, j) => (i === j ? 1e-6 : 0)),
    );
    at.forEach((s, n) => {
      const t = (s - centre) / scale;
      const powers = [1, t, t * t];
      for (let i = 0; i < terms; i++) {
        for (let j = 0; j < terms; j++) m[i][j] += weights[n] * powers[i] * powers[j];
        m[i][terms] += weights[n] * powers[i] * value[n];
      }
    });
    for (let i = 0; i < terms; i++)
      for (let j = 0; j < terms; j++) {
        if (i === j) continue;
        const f = m[j][i] / m[i][i];
        for (let k = i; k <= terms; k++) m[j][k] -= f * m[i][k];
      }
    c = m.map((row, i) => row[terms] / row[i]);
    const off = at.map((s, n) => Math.abs(value[n] - evaluate(s)));
    const usual = Math.max(0.7, 1.48 * off.slice().sort((p, q) => p - q)[off.length >> 1]);
    weights = off.map((d) => (d < 4.7 * usual ? (1 - (d / (4.7 * usual)) ** 2) ** 2 : 0));
  }
  return evaluate;
}

/** Distance from one course to the next along them, as a line: a fence seen at an angle narrows evenly. */
function gapBetween(a: Course, b: Course): (s: number) => number {
  const at: number[] = [];
  const value: number[] = [];
  for (let s = Math.max(a.from, b.from); s <= Math.min(a.to, b.to); s += 2) {
    if (!a.seen[s] || !b.seen[s]) continue;
    at.push(s);
    value.push(b.v[s] - a.v[s]);
  }
  return robustFit(at, value, 1);
}

/** A course whose strayed places are set right: what lies far from its own parabola was no part of the strand. */
function straightened(c: Course, most: number): Course {
  const at: number[] = [];
  for (let s = c.from; s <= c.to; s += 2) if (c.seen[s]) at.push(s);
  const fit = robustFit(
    at,
    at.map((s) => c.v[s]),
    2,
  );
  const v = c.v.slice();
  const seen = c.seen.slice();
  for (let s = c.from; s <= c.to; s++) {
    if (Math.abs(v[s] - fit(s)) <= most) continue;
    v[s] = fit(s);
    seen[s] = 0;
  }
  return { ...c, v, seen };
}

/** The course to go on from: what was expected, moved evenly by what most of the places that were seen say. */
function smoothed(c: Course, expected: Float32Array, band: number): Course {
  const at: number[] = [];
  const value: number[] = [];
  for (let s = c.from; s <= c.to; s += 2) {
    if (!c.seen[s] || Math.abs(c.v[s] - expected[s]) > 0.9 * band) continue;
    at.push(s);
    value.push(c.v[s] - expected[s]);
  }
  const move = at.length > 12 ? robustFit(at, value, 1) : () => 0;
  const v = expected.map((e, s) => e + Math.min(band, Math.max(-band, move(s))));
  return { ...c, v };
}

/** Share of a strand that must be seen for it to count, and how many in a row may be missed. */
const LEAST_SEEN = 0.3;
const MOST_MISSED = 7;

/**
 * Steps from one strand to the next until the picture or the fence ends. How wide a step is, as a share of the first gap, and
 * by how much steps shrink or grow are smoothed as they are measured (Holt's exponential smoothing).
 */
function propagate(f: Family, last: Course, before: Course): Course[] {
  const out: Course[] = [];
  const gap = gapBetween(before, last);
  let from = last;
  let level = 1;
  let trend = 1;
  let missed = 0;
  for (let n = 0; n < 400; n++) {
    const scale = level * trend;
    const expected = expectedNext(f, from, gap, scale);
    const range = onPicture(f, expected);
    if (!range) return out;
    const mid = (range.from + range.to) >> 1;
    const width = Math.abs(gap(mid) * scale);
    if (!(width > f.width + 2)) return out;
    const next = follow(f, expected, range.from, range.to, BAND * width);
    let v = expected;
    if (shareSeen(next) < LEAST_SEEN) {
      if (++missed > MOST_MISSED) return out;
      // A strand that cannot be seen is only supposed; those behind it may come into sight again.
      next.v = expected;
      next.seen.fill(0);
      level = scale;
    } else {
      missed = 0;
      v = smoothed(next, expected, BAND * width).v;
      const measured = Math.min(1.15 * scale, Math.max(0.85 * scale, (v[mid] - from.v[mid]) / gap(mid)));
      const steady = scale + 0.4 * (measured - scale);
      trend = Math.min(1.04, Math.max(0.96, trend + 0.15 * (steady / level - trend)));
      level = steady;
    }
    out.push(next);
    from = { ...next, v };
  }
  return out;
}

/** px from the picture's edge within which a strand goes on out of the picture. */
const AT_EDGE = 16;

/** A strand whose ends that come near the picture's edge are led beyond it, so that no stumps are left there. */
function toTheEdge(strand: TracedStrand, { width, height }: Family['size']): TracedStrand {
  const points = strand.points.slice();
  const widths = strand.widths.slice();
  const unsure = strand.unsure.slice();
  for (const end of [0, 1] as const) {
    const n = points.length;
    const [tip, back] = end ? [points[n - 1], points[Math.max(0, n - 9)]] : [points[0], points[Math.min(n - 1, 8)]];
    if (Math.min(tip[0], tip[1], width - tip[0], height - tip[1]) > AT_EDGE) continue;
    const d = Math.hypot(tip[0] - back[0], tip[1] - back[1]) || 1;
    const on: Point = [
      tip[0] + ((tip[0] - back[0]) / d) * 2 * AT_EDGE,
      tip[1] + ((tip[1] - back[1]) / d) * 2 * AT_EDGE,
    ];
    if (end) {
      points.push(on);
      widths.push(widths[n - 1]);
      unsure.push(unsure[n - 1]);
    } else {
      points.unshift(on);
      widths.unshift(widths[0]);
      unsure.unshift(unsure[0]);
    }
  }
  return { ...strand, points, widths, unsure };
}

/** Steps at which a course is seen for a good part of what lies around. */
function inSight(c: Course): Uint8Array {
  const reach = Math.round(SIGHT / STEP / 2);
  const there = new Uint8Array(c.seen.length);
  for (let s = c.from; s <= c.to; s++) {
    let seen = 0;
    let n = 0;
    for (let t = Math.max(c.from, s - reach); t <= Math.min(c.to, s + reach); t++, n++) seen += c.seen[t];
    if (seen / n >= SEEN) there[s] = 1;
  }
  return there;
}

/**
 * A course with what is not in sight put where it must be, evenly between what is; and where it lies: in sight, over
 * short stretches between, and wherever the picture has its own tone, so that it would not be seen.
 */
function interpolated(f: Family, c: Course): { v: Float32Array; there: Uint8Array } {
  const sight = inSight(c);
  const there = sight.slice();
  const v = c.v.slice();
  const base = c.expected ?? new Float32Array(c.v.length);
  let last = -1;
  const fill = (a: number, b: number) => {
    const [p, q] = [a < 0 ? b : a, b > c.to ? a : b];
    if (p < 0 || p > c.to) return;
    for (let s = Math.max(c.from, a + 1); s < Math.min(c.to + 1, b); s++) {
      const t = q > p ? (s - p) / (q - p) : 0;
      v[s] = base[s] + (c.v[p] - base[p]) * (1 - t) + (c.v[q] - base[q]) * t;
      const [x, y] = place(f, s, v[s]);
      // A strand goes on through a short stretch in which it cannot be told from its ground.
      const short = a >= 0 && b <= c.to && b - a <= BRIDGED / STEP;
      if (short || Math.abs(f.read(x, y) - f.tone) < ALIKE) there[s] = 1;
    }
  };
  for (let s = c.from; s <= c.to; s++) {
    if (!sight[s]) continue;
    if (s - last > 1) fill(last, s);
    last = s;
  }
  fill(last, c.to + 1);
  return { v, there };
}

/** The pieces of a course that are really seen, or must be there, refined and measured. */
function pieces(f: Family, c: Course): TracedStrand[] {
  const out: TracedStrand[] = [];
  let line: Point[] = [];
  const finish = () => {
    const { read, scale } = f.full;
    const size = { width: f.size.width * scale, height: f.size.height * scale };
    const whole = line.map(([x, y]): Point => [x * scale, y * scale]);
    if (line.length * STEP >= 24) out.push(toTheEdge(refineStrand(read, whole, f.width * scale), size));
    line = [];
  };
  const { v, there } = interpolated(f, c);
  for (let s = c.from; s <= c.to; s++) {
    if (there[s]) line.push(place(f, s, v[s]));
    else finish();
  }
  finish();
  return out;
}

/** A picture as meshes are looked for in it: at a size, and each channel as a plane only once it is needed. */
interface Seen {
  size: { width: number; height: number };
  /** px of the picture to one of these */
  scale: number;
  channels: Channel[];
  /** any place of a channel, slowly */
  peek(channel: Channel): Read;
  /** any place of a channel, fast, and the same in the picture's own size */
  plane(channel: Channel): { read: Read; full: Read };
}

function seenAt(picture: Raster, scale: 1 | 2): Seen {
  const { width, height } = picture;
  const planes = new Map<Channel, { read: Read; full: Read }>();
  const planeOf = (channel: Channel) => {
    const data = channel === 'luma' ? lumaPlane(picture) : channelPlane(picture, channel);
    const full = planeReader(width, height, data);
    if (scale === 1) return { read: full, full };
    const half = halfPlane({ width, height, data });
    // The whole plane is let go: what is measured in it is little.
    return { read: planeReader(half.width, half.height, half.data), full: channelReader(picture, channel) };
  };
  return {
    size: { width: width / scale, height: height / scale },
    scale,
    channels: colourChannels(picture.channels) === 1 ? ['luma'] : ['luma', 0, 1, 2],
    peek(channel) {
      const read = channelReader(picture, channel);
      return (x, y) => read(x * scale, y * scale);
    },
    plane(channel) {
      const plane = planes.get(channel) ?? planeOf(channel);
      planes.set(channel, plane);
      return plane;
    },
  };
}

/** Groups strands by direction: those within 25° of each other. */
function byDirection(strands: TracedStrand[]): TracedStrand[][] {
  const groups: Array<{ angle: number; list: TracedStrand[] }> = [];
  for (const strand of strands) {
    const { points } = strand;
    const [a, b] = [points[0], points[points.length - 1]];
    const angle = Math.atan2(b[1] - a[1], b[0] - a[0]);
    const near = groups.find((g) => Math.abs(Math.sin(g.angle - angle)) < Math.sin((25 * Math.PI) / 180));
    if (near) near.list.push(strand);
    else groups.push({ angle, list: [strand] });
  }
  return groups.map((g) => g.list);
}

/**
 * Completes a mesh from two or more traced strands of each direction: works out how many lie between them, then steps from
 * strand to strand, each time looking for the next one around where the last two put it, with its own bends and width.
 *
 * @param onProgress may throw to cancel
 * @returns all strands, the traced ones included, in the pieces that are seen
 * @throws Error with a message for the user when no direction has two strands
 * Source: own.
 */
export function completeMesh(
  picture: Raster,
  strands: TracedStrand[],
  onProgress?: (done: number) => void,
): TracedStrand[] {
  const seen = seenAt(picture, scaleFor(strands));
  const groups = byDirection(strands).filter((g) => g.length > 1);
  if (!groups.length) throw new Error('Trace two neighbouring strands of each direction first.');
  const out: TracedStrand[] = [];
  groups.forEach((whole, g) => {
    const group = whole.map((s) => resizeStrand(s, 1 / seen.scale));
    const f = familyOf(group, seen);
    const traced = group.map((s) => courseOf(f, s));
    const at = (c: Course) => c.v[(c.from + c.to) >> 1];
    traced.sort((p, q) => at(p) - at(q));
    const gap = Math.abs(at(traced[1]) - at(traced[0]));
    const k = countBetween(f, traced[0], traced[1]);
    const [first, second] = [traced[0], traced[1]].map((c) => {
      const whole = straightened(extended(f, straightened(c, 0.2 * (gap / k)), gap / k), 0.3 * (gap / k));
      return { ...whole, v: continued(whole.v) };
    });
    const between: Course[] = [];
    for (let j = 1; j < k; j++) {
      const expected = first.v.map((v, s) => v + ((second.v[s] - v) * j) / k);
      const range = onPicture(f, expected);
      if (range) between.push(follow(f, expected, range.from, range.to, (BAND * gap) / k));
    }
    const row = [first, ...between, second];
    onProgress?.((g + 0.3) / groups.length);
    const below = propagate(f, row[row.length - 1], row[row.length - 2]);
    onProgress?.((g + 0.5) / groups.length);
    const above = propagate(f, row[0], row[1]);
    onProgress?.((g + 0.7) / groups.length);
    for (const course of [...above.reverse(), ...row, ...below]) out.push(...pieces(f, course));
    onProgress?.((g + 1) / groups.length);
  });
  return out;
}
