import { robustFit } from '../../../raster/robust-fit.ts';
import { continued, follow, onPicture, shareSeen, type Course } from './course.ts';
import { response, type Family } from './family.ts';

/** Share of the spacing in which a strand is looked for around where it is expected. */
export const BAND = 0.34;

/** Share of a strand that must be seen for it to count, and how many in a row may be missed. */
const LEAST_SEEN = 0.3;
const MOST_MISSED = 7;

/** How many strands lie from one traced strand to another: as many as the picture agrees with at even distances. */
export function countBetween(f: Family, a: Course, b: Course): number {
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
export function straightened(c: Course, most: number): Course {
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

/**
 * Steps from one strand to the next until the picture or the fence ends. How wide a step is, as a share of the first gap, and
 * by how much steps shrink or grow are smoothed as they are measured (Holt's exponential smoothing).
 */
export function propagate(f: Family, last: Course, before: Course): Course[] {
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
