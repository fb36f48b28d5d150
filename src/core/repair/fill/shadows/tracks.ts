import { quantile } from '../../../raster/luma.ts';
import { robustFit } from '../../../raster/robust-fit.ts';

/** How dark places are beside an edge of a picture: rows lie along the edge, the first one at it. */
export interface Beside {
  /** cells along the edge, and rows away from it */
  across: number;
  rows: number;
  /** by how much each is darker than what is lit, natural logarithm; NaN where nothing is known */
  depths: Float32Array;
  /** how light each is by itself, natural logarithm */
  levels: Float32Array;
}

/** A dark band that runs up to an edge; everything in cells, steps away from the edge positive. */
export interface Track {
  /** where it begins and ends along the edge, so many steps away from it; null where it runs on past the picture's corner */
  from: ((step: number) => number) | null;
  to: ((step: number) => number) | null;
  /** how far from the edge it was followed */
  rows: number;
}

/** Depth from which on a place counts as dark, and rows at the edge that are looked at together. */
const DARK = 0.13;
const FIRST = 3;
/** Least rows over which a band has to be followed, and least cells that it is wide. */
const LEAST_ROWS = 10;
const LEAST_WIDE = 2;
/** Share of a band's width, and cells, by which an end of it may move from row to row, and be off a straight line. */
const JUMP = { share: 0.2, cells: 2.5 };
const OFF = { share: 0.03, cells: 0.6, most: 1.5 };
/** Shares of a band's width: how far inside its ends it is all dark, and between which distances from it it is lit. */
const WITHIN = { inside: 0.2, near: 0.35, far: 0.75 };
/** Deviations of what is dark within a band and of what is lit beside it, at most, as shares of how dark it is; and how dark it may be. */
const UNEVEN = { inside: 0.16, beside: 0.15 };
const DARKEST = 1.2;
/** Share of its depth by which a band itself is darker than what lies beyond each of its ends. */
const ITSELF = 0.5;
/** A band that takes more of an edge than this is a ground of its own. */
const MOST_WIDE = 0.7;

interface Interval {
  from: number;
  to: number;
}

/** The interval around a place in which a row is at least so dark, its ends between cells; null where one of them is not known. */
function around(row: Float32Array, place: number, dark: number): Interval | null {
  if (!(row[place] >= dark)) return null;
  let [a, b] = [place, place];
  while (a > 0 && row[a - 1] >= dark) a--;
  while (b + 1 < row.length && row[b + 1] >= dark) b++;
  const [before, after] = [row[a - 1], row[b + 1]];
  if ((a > 0 && !(before === before)) || (b + 1 < row.length && !(after === after))) return null;
  return {
    from: a > 0 ? a - (row[a] - dark) / (row[a] - before) : -Infinity,
    to: b + 1 < row.length ? b + (row[b] - dark) / (row[b] - after) : Infinity,
  };
}

/** The place of a row nearest to another that is so dark, no farther than `reach`. */
function nearest(row: Float32Array, place: number, dark: number, reach: number): number | null {
  for (let d = 0; d <= reach; d++)
    for (const at of [place - d, place + d]) if (at >= 0 && at < row.length && row[at] >= dark) return at;
  return null;
}

/** The means of the rows nearest to an edge. */
function firstRow({ across, rows, depths }: Beside): Float32Array {
  const out = new Float32Array(across);
  const n = Math.min(FIRST, rows);
  for (let s = 0; s < across; s++) {
    for (let k = 0; k < n; k++) out[s] += depths[k * across + s] / n;
  }
  return out;
}

/** The dark intervals at an edge, each down to half of its own depth. */
function startsAt(row: Float32Array, least: number): (Interval & { dark: number })[] {
  const out: (Interval & { dark: number })[] = [];
  for (let s = 0; s < row.length; s++) {
    if (!(row[s] >= least)) continue;
    let end = s;
    while (end + 1 < row.length && row[end + 1] >= least) end++;
    const deep = quantile(row.subarray(s, end + 1), 0.75);
    let deepest = s;
    for (let i = s; i <= end; i++) if (row[i] > row[deepest]) deepest = i;
    const found = around(row, deepest, deep / 2);
    if (found) out.push({ ...found, dark: deep / 2 });
    s = end;
  }
  return out;
}

const inside = (v: number, across: number) => Math.min(across, Math.max(0, v));

/** Follows a band away from the edge. @returns its interval in each row, as long as it has one that goes on from the last */
function follow({ across, rows, depths }: Beside, start: Interval & { dark: number }): Interval[] {
  const out: Interval[] = [];
  let last: Interval = start;
  for (let k = 0; k < rows; k++) {
    const row = depths.subarray(k * across, (k + 1) * across);
    const [a, b] = [inside(last.from, across), inside(last.to, across)];
    const middle = Math.min(across - 1, Math.round((a + b) / 2));
    const place = nearest(row, middle, start.dark, (b - a) / 2);
    const found = place === null ? null : around(row, place, start.dark);
    const may = JUMP.cells + JUMP.share * (b - a);
    const goesOn = (was: number, is: number) => was === is || Math.abs(was - is) <= may;
    if (!found || !goesOn(last.from, found.from) || !goesOn(last.to, found.to)) break;
    out.push((last = found));
  }
  return out;
}

/** A straight line through one end of a band, or null where it is none. */
function straight(values: readonly number[], wide: number): ((step: number) => number) | null {
  const steps = values.map((_, k) => k + 0.5);
  const line = robustFit(steps, [...values], 1);
  const off = Math.sqrt(values.reduce((sum, v, k) => sum + (v - line(k + 0.5)) ** 2, 0) / values.length);
  return off <= Math.min(OFF.most, Math.max(OFF.cells, OFF.share * wide)) ? line : null;
}

/** The longest stretch of a followed band, from the edge on, whose ends are straight. */
function straightest(intervals: readonly Interval[], across: number): Track | null {
  const isOpen = { from: intervals[0].from === -Infinity, to: intervals[0].to === Infinity };
  if (isOpen.from && isOpen.to) return null;
  for (let n = intervals.length; n >= LEAST_ROWS; n = Math.floor(n * 0.75)) {
    const part = intervals.slice(0, n);
    const wide = inside(part[0].to, across) - inside(part[0].from, across);
    if (wide < LEAST_WIDE || wide > MOST_WIDE * across) return null;
    const from = isOpen.from
      ? null
      : straight(
          part.map((p) => p.from),
          wide,
        );
    const to = isOpen.to
      ? null
      : straight(
          part.map((p) => p.to),
          wide,
        );
    if ((from || isOpen.from) && (to || isOpen.to)) return { from, to, rows: n };
  }
  return null;
}

/** Whether a band is about equally dark within, and what is beside it about equally lit. */
function isEven({ across, depths }: Beside, { from, to, rows }: Track): boolean {
  const [inner, outer]: [number[], number[]] = [[], []];
  for (let k = 0; k < rows; k++) {
    const [a, b] = [from ? from(k + 0.5) : 0, to ? to(k + 0.5) : across];
    const wide = b - a;
    for (let s = 0; s < across; s++) {
      const depth = depths[k * across + s];
      if (!(depth === depth)) continue;
      const off = Math.max(from ? a - s : -Infinity, to ? s - b : -Infinity) / wide;
      if (off < -WITHIN.inside) inner.push(depth);
      else if (off > WITHIN.near && off < WITHIN.far) outer.push(depth);
    }
  }
  const mean = inner.reduce((sum, v) => sum + v, 0) / inner.length;
  const rms = (list: number[], about: number) =>
    Math.sqrt(list.reduce((sum, v) => sum + (v - about) ** 2, 0) / list.length);
  return mean <= DARKEST && rms(inner, mean) <= UNEVEN.inside * mean && rms(outer, 0) <= UNEVEN.beside * mean;
}

/**
 * Whether a band ends, on a side of it, where what is seen becomes lighter. It does not where only what counts as lit becomes darker:
 * below a leaning border of two grounds most of a row belongs to the lighter one at first, and then to the darker.
 * @param sign 1 where it begins along the edge, −1 where it ends
 */
function endsItself({ across, depths, levels }: Beside, { from, to, rows }: Track, sign: 1 | -1): boolean {
  const end = sign > 0 ? from : to;
  if (!end) return true;
  let [depth, level] = [0, 0];
  for (let k = 0; k < rows; k++) {
    const wide = (to ? to(k + 0.5) : across) - (from ? from(k + 0.5) : 0);
    const at = (share: number) => {
      const s = Math.round(end(k + 0.5) + sign * share * wide);
      return s >= 0 && s < across ? k * across + s : -1;
    };
    const [inner, outer] = [at(2 * WITHIN.inside), at(-WITHIN.near)];
    if (inner < 0 || outer < 0) continue;
    const falls = [depths[inner] - depths[outer], levels[outer] - levels[inner]];
    if (falls.some((v) => v !== v)) continue;
    depth += falls[0];
    level += falls[1];
  }
  return level >= ITSELF * depth;
}

/**
 * Dark bands with straight ends that run up to an edge of a picture, as a shadow does that leaves it.
 * @param least by how much they are darker than what is lit, at least
 * Source: common practice; constants from made-up pictures and own tests.
 */
export function tracksIn(beside: Beside, least = DARK): Track[] {
  const out: Track[] = [];
  for (const start of startsAt(firstRow(beside), Math.max(DARK, least))) {
    const followed = follow(beside, start);
    const track = followed.length >= LEAST_ROWS ? straightest(followed, beside.across) : null;
    if (track && isEven(beside, track) && endsItself(beside, track, 1) && endsItself(beside, track, -1))
      out.push(track);
  }
  return out;
}
