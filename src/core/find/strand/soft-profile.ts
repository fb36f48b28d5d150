import { median, medianOf } from '../../raster/luma.ts';
import type { TracedStrand } from './traced-strand.ts';

type Read = (x: number, y: number) => number;

/** px along a strand to both sides of a place over which its profile is taken as one, and from place to place. */
const ALONG = 40;
const EVERY = 24;
/** px along it from one profile that is read to the next. */
const APART = 4;
/** px beyond the strand's edge from which the ground is read, tried one after the other, and px over which it is read. */
const AROUND = [3, 6, 10, 15, 22];
const OVER = 8;
/** px for which a profile must stay on the ground before the strand has ended. */
const STAYS = 2;
/** The same where noise hides more. */
const BRIEFLY = 0.5;
/** Levels of 255 that nobody sees: the ground is never told more finely. */
const UNSEEN = 0.8;
/** Deviations of the ground within which a profile lies on it. */
const WITHIN = 3;
/** Share of the strand's contrast up to which noise leaves its end clear, and beyond which the ground says nothing. */
const CLEAR = 0.1;
const UNTOLD = 0.4;
/** Share of its contrast that is left where a strand ends. */
const LEFT = 0.025;
/** Neighbouring samples of a picture are alike: this many count as one. */
const ALIKE = 3;

/** px beyond the half height up to which a soft edge is looked for. */
const mostSoft = (width: number): number => width + 6;

/** Median profiles of one side of a stretch: a row for each channel. */
interface Side {
  rows: Float32Array[];
  /** single samples at one distance, for the scatter of the ground */
  samples: (channel: number, k: number) => Float32Array;
}

/**
 * Measures how far a strand really reaches on both sides of its centre line: to where its profile equals the ground beside it,
 * within noise. Half of its height says how wide it is; a lens, a scanner or a codec spreads the rest farther out.
 *
 * @param reads channels on the 8-bit scale at a place in px
 * @param least px from the centre line, for each point, that count as strand in any case
 * @returns px from the centre line to the left (the normal −dy, dx) and to the right, for each point
 * Source: own; median profiles along stretches (common practice). Checked by `npm run bench:strand`.
 */
export function softReaches(
  reads: readonly Read[],
  strand: Pick<TracedStrand, 'points' | 'widths'>,
  least: readonly number[],
): [left: number[], right: number[]] {
  const { points, widths } = strand;
  const whole = lengthsAlong(points);
  const total = whole[whole.length - 1];
  const some = points.flatMap((_, i) =>
    i === 0 || Math.floor(whole[i] / APART) > Math.floor(whole[i - 1] / APART) ? [i] : [],
  );
  const widest = Math.max(...widths);
  const perPx = widest > 16 ? 1 : 2;
  const size = Math.ceil((widest / 2 + Math.min(mostSoft(widest), AROUND[AROUND.length - 1]) + OVER + 1) * perPx) + 1;
  const profiles = profilesOf(reads, points, some, size, perPx);
  const lengths = some.map((i) => whole[i]);
  const stretches = Math.max(1, Math.round(total / EVERY));
  const sides: Array<{ at: number[]; reach: number[] }> = [1, -1].map((_, side) => {
    const at: number[] = [];
    const reach: number[] = [];
    for (let n = 0; n <= stretches; n++) {
      const middle = (n * total) / stretches;
      const from = lengths.findIndex((l) => l >= middle - ALONG);
      const to = lengths.findLastIndex((l) => l <= middle + ALONG);
      const i = some[(from + to) >> 1];
      at.push(middle);
      reach.push(beyond(sideOf(profiles[side], reads.length, size, from, to), widths[i] / 2, least[i], perPx));
    }
    return { at, reach: settled(reach) };
  });
  return sides.map(({ reach }) =>
    whole.map((l, i) => {
      // The larger of both neighbours: a stretch that is softer begins somewhere between them.
      const n = Math.min(stretches, Math.max(0, (l / Math.max(1e-6, total)) * stretches));
      return least[i] + Math.max(reach[Math.floor(n)], reach[Math.ceil(n)]);
    }),
  ) as [number[], number[]];
}

/** px along a line at each of its points. */
export function lengthsAlong(points: TracedStrand['points']): number[] {
  const out = [0];
  for (let i = 1; i < points.length; i++)
    out.push(out[i - 1] + Math.hypot(points[i][0] - points[i - 1][0], points[i][1] - points[i - 1][1]));
  return out;
}

/** Profiles outwards from the centre line, left and right: point by point, channel by channel. */
function profilesOf(
  reads: readonly Read[],
  points: TracedStrand['points'],
  some: readonly number[],
  size: number,
  perPx: number,
) {
  const row = reads.length * size;
  const out = [new Float32Array(some.length * row), new Float32Array(some.length * row)];
  some.forEach((i, n) => {
    const p = points[i];
    const a = points[Math.max(0, i - 3)];
    const b = points[Math.min(points.length - 1, i + 3)];
    const span = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
    for (const side of [0, 1]) {
      const sign = side ? -1 : 1;
      const nx = (-sign * (b[1] - a[1])) / span;
      const ny = (sign * (b[0] - a[0])) / span;
      for (let k = 0; k < size; k++) {
        const [x, y] = [p[0] + (nx * k) / perPx, p[1] + (ny * k) / perPx];
        for (let c = 0; c < reads.length; c++) out[side][n * row + c * size + k] = reads[c](x, y);
      }
    }
  });
  return out;
}

/** Median profile of the points `from` to `to` (included). */
function sideOf(profiles: Float32Array, channels: number, size: number, from: number, to: number): Side {
  const count = to - from + 1;
  const samples = (c: number, k: number) =>
    Float32Array.from({ length: count }, (_, n) => profiles[((from + n) * channels + c) * size + k]);
  const rows = Array.from({ length: channels }, (_, c) =>
    Float32Array.from({ length: size }, (__, k) => medianOf(samples(c, k), count)),
  );
  return { rows, samples };
}

/** The ground beside a strand in one channel: a line over the distance, and how far a profile may be off it. */
interface Ground {
  level: number;
  slope: number;
  noise: number;
}

function groundOf(row: Float32Array, samples: (k: number) => Float32Array, from: number, to: number): Ground {
  const n = to - from;
  const middle = (from + to - 1) / 2;
  let mean = 0;
  for (let k = from; k < to; k++) mean += row[k] / n;
  let [xy, xx] = [0, 0];
  for (let k = from; k < to; k++) {
    xy += (k - middle) * (row[k] - mean);
    xx += (k - middle) ** 2;
  }
  let slope = xy / xx;
  let off = 0;
  for (let k = from; k < to; k++) off += (row[k] - mean - slope * (k - middle)) ** 2;
  const scatter = Math.sqrt(off / n);
  // A slope that is hardly more than scatter would be carried on where there is none.
  if (Math.abs(slope) * n < 2 * scatter) slope = 0;
  const own = samples((from + to) >> 1);
  const median = medianOf(own.slice(), own.length);
  const deviation =
    1.48 *
    medianOf(
      own.map((v) => Math.abs(v - median)),
      own.length,
    );
  const noise = Math.max(scatter, (1.25 * deviation) / Math.sqrt(Math.max(1, own.length / ALIKE)));
  return { level: mean - slope * middle, slope, noise };
}

/**
 * How much of a strand shows at each distance on one side of a stretch, levels of 255, beside the ground as it is read from some
 * distance on; and the level that counts as nothing.
 */
interface Showing {
  at: (k: number) => number;
  nothing: number;
  contrast: number;
}

function showingBeside({ rows, samples }: Side, inner: number, from: number, to: number): Showing {
  const grounds = rows.map((row, c) => groundOf(row, (k) => samples(c, k), from, to));
  const off = (c: number, k: number) => rows[c][k] - grounds[c].level - grounds[c].slope * k;
  // Along the way in colour from the ground to the strand: what differs otherwise is another thing.
  const way = rows.map((_, c) => off(c, inner));
  const contrast = Math.hypot(...way) || 1e-6;
  const along = (values: (c: number) => number) => way.reduce((sum, w, c) => sum + (w / contrast) * values(c), 0);
  // Channels scatter alike.
  const noise = way.reduce((sum, w, c) => sum + (Math.abs(w) / contrast) * grounds[c].noise, 0);
  return {
    at: (k) => Math.abs(along((c) => off(c, k))),
    nothing: Math.max(UNSEEN * Math.sqrt(way.length), WITHIN * noise, LEFT * contrast),
    contrast,
  };
}

/** Stretches to both sides among which one that differs alone does not count. */
const AMONG = 1;

/**
 * Reaches of the stretches of one side: one that differs from both its neighbours follows the ground, such as the rim of a cloud, and
 * where the end could not be told the strand is as soft as it usually is.
 */
function settled(reach: readonly number[]): number[] {
  const clear = reach.filter((r) => r === r);
  const usual = clear.length ? median(clear) : 0;
  const known = reach.map((r) => (r === r ? r : usual));
  return known.map((_, n) => median(known.slice(Math.max(0, n - AMONG), n + AMONG + 1)));
}

/** px by which a strand reaches beyond `least`, its own blur's reach, on one side of a stretch; NaN where that cannot be told. */
function beyond(side: Side, half: number, least: number, perPx: number): number {
  const size = side.rows[0].length;
  const inner = Math.max(0, Math.floor(0.3 * half * perPx));
  for (const around of AROUND) {
    const from = Math.round((half + around) * perPx);
    const to = Math.min(size, from + OVER * perPx);
    if (around > mostSoft(2 * half) || to - from < 4 * perPx) break;
    const { at, nothing, contrast } = showingBeside(side, inner, from, to);
    if (nothing > UNTOLD * contrast) continue;
    const stays = Math.round((nothing <= CLEAR * contrast ? STAYS : BRIEFLY) * perPx);
    let on = 0;
    for (let k = Math.floor(0.6 * half * perPx); k < from; k++) {
      on = at(k) <= nothing ? on + 1 : 0;
      if (on < stays) continue;
      // It ends before ground so uneven that where cannot be told; farther off lies other ground.
      if (nothing > CLEAR * contrast) return NaN;
      return Math.min(mostSoft(2 * half), Math.max(0, (k - on + 1) / perPx - least));
    }
  }
  return NaN;
}
