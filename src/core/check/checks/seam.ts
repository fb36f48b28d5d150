import { boxOfRows, REACH, WIDE, type Band } from '../band.ts';
import { quantile } from '../../raster/luma.ts';
import { largestAround } from '../border-steps.ts';
import type { Sign } from '../finding.ts';
import { inPicture, type Place } from '../place.ts';
import { meanOver, runsOf, type Run } from '../runs.ts';

/** Columns at which the picture itself is looked at, px from the border; each with its neighbours on both sides. */
const BESIDE = [-20, -16, -12, -8, -5, 5, 8, 12, 16, 20];
/** Samples to both sides that are taken together. */
const TOGETHER = 7;
/** L* by which the border's jumps exceed those beside it, and how many times. */
const MORE = 1.3;
const TIMES = 1.35;
const LEAST = 7;
/** Samples of a border for each of which one more is asked for: the longer it is, the more happens along it by chance. */
const LONG = 60;
/** A short one counts where it is stark: L* by which it exceeds those beside it, how many times, and samples of it. */
const STARK = { more: 10, times: 2.3, least: 11 };
/** Share of the picture's own jumps that are smaller. */
const OFTEN = 0.9;

/** Root mean square over samples around each of a closed line; NaN where fewer than half are known. */
function around(list: Float32Array, reach: number): Float32Array {
  const n = list.length;
  const wide = Math.min(reach, (n - 1) >> 1);
  return Float32Array.from({ length: n }, (_, i) => {
    let [sum, count] = [0, 0];
    for (let k = -wide; k <= wide; k++) {
      const v = list[(i + k + n) % n];
      if (v !== v) continue;
      sum += v * v;
      count++;
    }
    return count > wide ? Math.sqrt(sum / count) : NaN;
  });
}

/** How much tone jumps between two px on both sides of a column, along a border: the largest of it and its neighbours. */
function jumpsAt({ L, rows }: Band, column: number): Float32Array {
  const out = new Float32Array(rows).fill(NaN);
  for (const d of [column - 1, column, column + 1]) {
    const jump = Float32Array.from({ length: rows }, (_, row) => {
      const k = row * WIDE + REACH + d;
      // Both sides of the line have to be known.
      return L[k + 2] === L[k + 2] && L[k - 2] === L[k - 2] ? L[k + 1] - L[k - 1] : NaN;
    });
    around(jump, TOGETHER).forEach((v, i) => {
      if (v === v && !(v <= out[i])) out[i] = v;
    });
  }
  return out;
}

/** Whether two stretches have samples in common. */
const meets = (a: Run, b: Run): boolean => a.from <= b.to && b.from <= a.to;

function seamsAlong(place: Place, band: Band): Sign[] {
  const own = jumpsAt(band, 0);
  const others = BESIDE.map((d) => jumpsAt(band, d));
  const n = band.rows;
  const most = own.map((_, i) => Math.max(0, ...others.map((o) => o[i]).filter((v) => v === v)));
  const usual = largestAround(most, 3);
  const anywhere = quantile(most, OFTEN);
  const isJump = (i: number) => own[i] > anywhere && own[i] > TIMES * usual[i] && own[i] - usual[i] > MORE;
  const isStark = (i: number) => own[i] > STARK.times * usual[i] && own[i] - usual[i] > STARK.more;
  const least = Math.min(LEAST + Math.round(n / LONG), Math.round(0.6 * n));
  const long = runsOf(n, isJump, least);
  const stark = runsOf(n, isStark, Math.min(STARK.least, least)).filter(
    (run) => !long.some((other) => meets(run, other)),
  );
  return [...long, ...stark].map((run) => {
    const figure = meanOver(run, n, (i) => own[i]);
    const beside = meanOver(run, n, (i) => usual[i]);
    return {
      kind: 'seam',
      box: inPicture(place, boxOfRows(band, run.from, run.to, 4)),
      figure: figure / Math.max(0.3, beside),
      unit: 'times the jumps beside it',
      difference: Math.sqrt(Math.max(0, figure ** 2 - beside ** 2)),
      across: 3,
      along: 2 * run.length,
      remedy: 'other-try',
    };
  });
}

/**
 * Seams: jumps of lightness over 2 px along a cover's border that are larger than those along lines beside it.
 * Source: own.
 */
export const seam = (place: Place): Sign[] => place.bands.flatMap((band) => seamsAlong(place, band));
