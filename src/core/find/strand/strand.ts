import { median } from '../../raster/luma.ts';
import type { Point } from '../../mask/shapes.ts';
import { colourChannels, type Raster } from '../../raster/raster.ts';
import { crossProfile, type CrossProfile } from './cross-profile.ts';
import { runOn } from './run-on.ts';
import { interpolated, runningMedian, scatterOf, smooth } from './settle-line.ts';
import { minimalPaths, type Course } from './minimal-paths.ts';
import { withReaches } from './strand-cover.ts';
import type { TracedStrand } from './traced-strand.ts';
import { channelReader, lumaReader, straighten, type Channel, type StraightenedBand } from './straightened-band.ts';

/** px between two points from which on the way is looked for at a half, a third and a quarter of the size, and only measured at full size */
const COARSE = [1000, 1600, 2800];
/** px between the measured places of the centre line, and of one that was looked for at less than half the size */
const STEP = 2;
const FAR_STEP = 4;

/**
 * Traces a strand through two or more points set on it: a path of least cost over a ridge response, darker or lighter
 * than both its sides, which may change along it, of several the one most like a strand; then centre and width are measured across the path.
 *
 * @param clicks px, at least two, in order along the strand; they need to be right within some 4 px
 * @throws Error with a message for the user when the points are too close together.
 * Source: minimal paths, see `ways.ts`; width at half height (common practice); that the steadiest of several ways is
 * taken, own measurement (`npm run bench:find`).
 */
export function traceStrand(picture: Raster, clicks: Point[]): TracedStrand {
  const read = lumaReader(picture);
  const rough: Point[] = [];
  const guessed: number[] = [];
  let widest = 0;
  for (let i = 1; i < clicks.length; i++) {
    const span = Math.hypot(clicks[i][0] - clicks[i - 1][0], clicks[i][1] - clicks[i - 1][1]);
    if (span < 6) continue;
    const reach = Math.round(Math.min(240, Math.max(14, 0.14 * span), swing(clicks, i)));
    widest = Math.max(widest, reach);
    const scale = 1 + COARSE.filter((from) => span > from).length;
    const strip = straighten(read, clicks[i - 1], clicks[i], Math.round(reach / scale), scale);
    const { points, guess } = mostLikeAStrand(read, strip, minimalPaths(strip, scale), scale);
    const own = points.slice(rough.length ? 1 : 0);
    rough.push(...own);
    guessed.push(...own.map(() => guess));
  }
  if (rough.length < 6) throw new Error('Set two points on the strand, at least 6 px apart.');
  const strand = refineStrand(read, rough, median(guessed));
  const better = lookedForAgain(read, strand, [clicks[0], clicks[clicks.length - 1]], widest);
  const whole = runOn(read, better ? refineStrand(read, better, strand.width) : strand, picture);
  const channels: Channel[] = colourChannels(picture.channels) === 1 ? [0] : [0, 1, 2];
  return withReaches(
    channels.map((c) => channelReader(picture, c)),
    whole,
  );
}

/** How a stretch is told where a strand was lost, and how it is looked for there again. */
const LOST = {
  /** px by which its edges are unsure */
  unsure: 0.8,
  /** px that the stretch spans at the least, and points beside it that are sure */
  least: 100,
  beside: 6,
  /** columns that the strand is across, and that a piece of a way may lean */
  across: 8,
  lean: 3,
  /** how far aside of the straight line it may run besides twice its width: px, and share of the span */
  aside: 14,
  swing: 0.04,
};

/** How much more like a strand a way must be to count instead of one that was found before. */
const BETTER = 0.1;

/**
 * The line of a strand with the stretches where it seems to have been lost looked for once more, from sure place to sure
 * place and so at a finer scale; null when nothing better was found.
 * @param ends where the strand was set to begin and to end
 * @param widest px to both sides of the line between clicks within which the strand was looked for
 */
function lookedForAgain(
  read: (x: number, y: number) => number,
  strand: TracedStrand,
  ends: readonly [Point, Point],
  widest: number,
): Point[] | null {
  const { points, widths, unsure, width } = strand;
  const lost = points.map((_, i) => unsure[i] >= LOST.unsure || !alike(widths[i], width));
  const line = points.slice();
  let found = false;
  // From the end, so that what is put in moves nothing that is still to be looked at.
  for (const [from, to] of lostStretches(lost).reverse()) {
    // An end of the strand is where it was set.
    const a = from === 0 ? ends[0] : points[from];
    const b = to === points.length - 1 ? ends[1] : points[to];
    const span = Math.hypot(b[0] - a[0], b[1] - a[1]);
    if (span < LOST.least) continue;
    const scale = Math.min(4, Math.max(1, Math.round(width / LOST.across)));
    const reach = Math.min(widest, LOST.aside + 2 * width + LOST.swing * span);
    const strip = straighten(read, a, b, Math.round(reach / scale), scale);
    const way = mostLikeAStrand(read, strip, minimalPaths(strip, scale, LOST.lean), scale);
    const before = likeness(read, { points: points.slice(from, to + 1), guess: width });
    if (likeness(read, { points: way.points, guess: width }) < before + BETTER) continue;
    line.splice(from, to - from + 1, ...way.points);
    found = true;
  }
  return found ? line : null;
}

/** First and last points of the stretches where a strand was lost, widened onto what is sure on both sides of them. */
function lostStretches(lost: readonly boolean[]): Array<[number, number]> {
  const out: Array<[number, number]> = [];
  let sure = LOST.beside;
  lost.forEach((here, i) => {
    if (!here) return void sure++;
    if (sure < 2 * LOST.beside && out.length) out[out.length - 1][1] = i;
    else out.push([i, i]);
    sure = 0;
  });
  const last = lost.length - 1;
  return out.map(([from, to]) => [Math.max(0, from - LOST.beside), Math.min(last, to + LOST.beside)]);
}

/**
 * px to both sides of the line from a click to the one before within which the strand runs. Clicks beyond them tell how
 * far it bows: as far as the mean of the parabolas through three of them (common practice).
 */
function swing(clicks: Point[], i: number): number {
  const [b, c] = [clicks[i - 1], clicks[i]];
  const span = Math.hypot(c[0] - b[0], c[1] - b[1]);
  const bows = [
    [clicks[i - 2], b, c],
    [clicks[i + 1], c, b],
  ].flatMap(([a, p, q]) => {
    if (!a) return [];
    // As if the outer click were as far away as the two are from each other.
    const far = span / Math.max(1, Math.hypot(a[0] - p[0], a[1] - p[1]));
    return [Math.hypot(...([0, 1].map((k) => (p[k] + (a[k] - p[k]) * far - 2 * p[k] + q[k]) / 8) as [number, number]))];
  });
  return bows.length && clicks.length > 3 ? 6 + 2 * Math.max(...bows) : Infinity;
}

/**
 * Moves a rough centre line onto the strand that it follows and measures it.
 * @param read luma at a place in px, see {@link lumaReader}
 * @param rough the line, a point every 2 to 4 px
 * @param guess about how wide the strand is, px
 */
export function refineStrand(read: (x: number, y: number) => number, rough: Point[], guess: number): TracedStrand {
  let line = smooth(rough, 7);
  let measured = crossProfile(read, line, guess);
  for (let pass = 0; pass < STIFFNESS.length; pass++) {
    line = interpolated(recentred(line, measured), measured, STIFFNESS[pass]);
    measured = crossProfile(read, line, median(measured.widths.filter((w) => w > 0)) || guess);
  }
  const sure = measured.widths.flatMap((w, i) => (w > 0 ? [i] : []));
  const width = sure.length ? median(sure.map((i) => measured.widths[i])) : guess;
  const widths = runningMedian(
    measured.widths.map((w) => w || width),
    12,
  );
  const blur = sure.length ? median(sure.map((i) => measured.blurs[i])) : 0;
  const sign = sure.reduce((n, i) => n + Math.sign(measured.contrasts[i]), 0) < 0 ? -1 : 1;
  return {
    points: line,
    widths,
    width,
    blur,
    blurs: runningMedian(
      measured.blurs.map((b, i) => (measured.widths[i] > 0 ? b : blur)),
      STRETCH,
    ),
    contrast: sign * (sure.length ? median(sure.map((i) => Math.abs(measured.contrasts[i]))) : 0),
    length: line.reduce((s, p, i) => (i ? s + Math.hypot(p[0] - line[i - 1][0], p[1] - line[i - 1][1]) : 0), 0),
    certainty: sure.length / line.length,
    unsure: scatterOf(measured).map((s = MOST_UNSURE) => Math.min(MOST_UNSURE, Math.max(0, s - STEADY))),
  };
}

/** Points to both sides along which its softness is one. */
const STRETCH = 40;
/** How much bending counts in each pass over a line. */
const STIFFNESS = [200, 40];
/** px by which an edge is taken to lie farther out at the most. */
const MOST_UNSURE = 2;
/** A way along a strip as a line in the picture. */
interface Line {
  points: Point[];
  /** about how wide the strand on it is, px */
  guess: number;
}

/** From which likeness to a strand on no other way is looked at. */
const PLAIN = 0.85;

/**
 * Of the cheapest ways through a strip the one that is most like a strand. The cheapest alone may follow edges of the
 * ground, one after the other, each of them stronger than a faint strand.
 */
function mostLikeAStrand(
  read: (x: number, y: number) => number,
  strip: StraightenedBand,
  ways: Iterable<Course>,
  scale: number,
): Line {
  let best: Line = { points: [], guess: 1 };
  let least = Infinity;
  for (const { cost, across, halves } of ways) {
    const step = scale > 2 ? FAR_STEP : STEP;
    const on = Array.from({ length: Math.floor(((across.length - 1) * scale) / step) + 1 }, (_, i) => {
      const row = (i * step) / scale;
      const k = Math.floor(row);
      return strip.place(row, across[k] + (row - k) * ((across[k + 1] ?? across[k]) - across[k]));
    });
    const line = { points: on, guess: median(halves.map((half) => (2 * half + 1) * scale)) };
    const like = likeness(read, line);
    if (cost * (1 - like) < least) {
      least = cost * (1 - like);
      best = line;
    }
    if (like >= PLAIN) break;
  }
  return best;
}

/** Whether a strand that is usually so wide may be as wide at a place, px. */
const alike = (width: number, usual: number): boolean => Math.abs(width - usual) <= 0.3 * usual + 0.5;
/** px by which the centre may move from one looked at place to the next before it counts half. */
const STEADY = 0.15;
/** Places that are looked at of a long line, and how many of them beside one another. */
const LOOKED = 320;
const TOGETHER = 40;

/** 0 to 1: share of a line along which something is seen that keeps its width and runs on without jumps, as a strand does. */
function likeness(read: (x: number, y: number) => number, { points, guess }: Line): number {
  const line = smooth(points, 7).filter((_, i) => i % 2 === 0);
  const groups = line.length > LOOKED ? LOOKED / TOGETHER : 1;
  const size = groups > 1 ? TOGETHER : line.length;
  const parts = Array.from({ length: groups }, (_, g) => {
    const from = groups > 1 ? Math.round((g * (line.length - size)) / (groups - 1)) : 0;
    return crossProfile(read, line.slice(from, from + size), guess);
  });
  const usual = median(parts.flatMap(({ widths }) => widths.filter((w) => w > 0)));
  let sum = 0;
  for (const { widths, offsets } of parts) {
    for (let i = 1; i < size; i++) {
      const seen = widths[i] > 0 && widths[i - 1] > 0;
      if (!seen || !alike(widths[i], usual)) continue;
      sum += 1 / (1 + ((offsets[i] - offsets[i - 1]) / STEADY) ** 2);
    }
  }
  return sum / Math.max(1, groups * size);
}

/** Moves the line onto the measured centres; a single one that disagrees with its neighbours does not count. */
function recentred(line: Point[], measured: CrossProfile): Point[] {
  const offsets = runningMedian(measured.offsets, 3);
  return line.map((p, i) => {
    const a = line[Math.max(0, i - 3)];
    const b = line[Math.min(line.length - 1, i + 3)];
    const span = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
    const move = Math.min(2, Math.max(-2, offsets[i]));
    return [p[0] - ((b[1] - a[1]) / span) * move, p[1] + ((b[0] - a[0]) / span) * move];
  });
}
