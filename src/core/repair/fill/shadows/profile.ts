import { quantile } from '../../../raster/luma.ts';
import { gaussianKernel } from '../../../raster/planes.ts';
import type { Logs } from './lit.ts';
import type { Side } from '../sides.ts';
import type { Track } from './tracks.ts';

/** Share of a followed part, and least px, over which a shadow's depth is taken, and px of it that each place needs. */
const NEAR = { share: 0.4, px: 24 };
const LEAST = 4;
/** How far beyond its ends, as a share of its width, the profile of a shadow reaches, and the least and most px of it. */
const BEYOND = { share: 0.75, least: 6, most: 400 };
/** Share of a profile that has to be seen. */
const SEEN = 0.6;
/** How much more one channel may be darkened than another, as a share of the depth: more is another colour, not shade. */
const COLOUR = 0.4;
/** Between which multiples of what it is beside it the texture in a shadow has to be. */
const TEXTURE = { least: 0.4, most: 2.2 };

/** Where across a shadow a place lies: px from one of its ends, as wide as it is at the edge; NaN where there is none. */
export function placeAcross({ from, to }: Line, s: number, n: number): number {
  if (!to) return s - from!(n);
  if (!from) return to(n) - s;
  const wide = to(n) - from(n);
  return wide > 0 ? ((s - from(n)) * (to(0) - from(0))) / wide : NaN;
}

/** A track in px. */
export interface Line extends Track {
  /** px that it is wide at the edge */
  wide: number;
}

export function linePx(track: Track, by: number, along: number): Line {
  // Ends lie between the middles of cells.
  const px = (end: Track['from']) => end && ((n: number) => (end(n / by) + 0.5) * by);
  const [from, to] = [px(track.from), px(track.to)];
  return { from, to, rows: track.rows * by, wide: (to ? to(0) : along) - (from ? from(0) : 0) };
}

/** How dark a shadow is across it, natural logarithm for each channel, from `first` px before where it begins on. */
export interface Profile {
  first: number;
  depths: Float32Array[];
}

/** A list whose empty places are filled from beside them, smoothed. */
function smoothed(values: Float32Array): Float32Array {
  let last = values.find((v) => v === v) ?? 0;
  const whole = values.map((v) => (last = v === v ? v : last));
  const kernel = gaussianKernel(1.5);
  const r = (kernel.length - 1) / 2;
  return whole.map((_, i) =>
    kernel.reduce((sum, k, j) => sum + k * whole[Math.min(whole.length - 1, Math.max(0, i + j - r))], 0),
  );
}

/** Takes what lies beside a shadow off its profile, and lets it end there. */
function settled(values: Float32Array, beyond: number, open: boolean): Float32Array {
  const n = values.length;
  const foot = Math.max(2, Math.round(beyond / 4));
  const mean = (list: Float32Array) => list.reduce((a, b) => a + b, 0) / list.length;
  const [before, after] = [mean(values.subarray(0, foot)), mean(values.subarray(n - foot))];
  return values.map((v, i) => {
    const base = open ? before : before + ((after - before) * i) / n;
    const near = Math.min(1, (open ? i : Math.min(i, n - 1 - i)) / foot);
    return Math.max(0, v - base) * near * near * (3 - 2 * near);
  });
}

/** Visits usable pixels near the edge of a picture that lie across a shadow or beside it, where it is known what is lit. */
function visitNear(
  { picture: { width, height } }: Logs,
  usable: Uint8Array,
  lit: readonly Float32Array[],
  side: Side,
  line: Line,
  visit: (x: number, y: number, place: number) => void,
): void {
  const near = Math.max(NEAR.px, NEAR.share * line.rows);
  for (let k = 0; k < near; k++)
    for (let s = 0; s < side.along; s++) {
      const { x, y } = cellAt(side, s, k);
      if (x < 0 || y < 0 || x >= width || y >= height) continue;
      if (usable[y * width + x] && lit[0][y] === lit[0][y]) visit(x, y, placeAcross(line, s + 0.5, k + 0.5));
    }
}

/** The profile of a shadow near its edge; null where too little of it is seen, and where it is another thing than shade. */
export function profileOf(
  logs: Logs,
  usable: Uint8Array,
  lit: readonly Float32Array[],
  side: Side,
  line: Line,
): Profile | null {
  const open = !line.from || !line.to;
  const beyond = Math.ceil(Math.min(BEYOND.most, Math.max(BEYOND.least, BEYOND.share * line.wide)));
  const bins = beyond + Math.ceil(line.wide) + (open ? 0 : beyond);
  const depths = lit.map(() => new Float32Array(bins));
  const counts = new Float32Array(bins);
  const texture = { inside: [0, 0], beside: [0, 0] };
  visitNear(logs, usable, lit, side, line, (x, y, place) => {
    const bin = Math.floor(place + beyond);
    if (!(bin >= 0 && bin < bins)) return;
    counts[bin]++;
    for (let c = 0; c < lit.length; c++) depths[c][bin] += lit[c][y] - logs.at(x, y, c);
    if (x + 1 >= logs.picture.width || !usable[y * logs.picture.width + x + 1]) return;
    const sums = place > 0.25 * line.wide && place < 0.75 * line.wide ? texture.inside : texture.beside;
    sums[0] += Math.abs(logs.mean(x, y) - logs.mean(x + 1, y));
    sums[1]++;
  });
  if (counts.filter((n) => n >= LEAST).length < SEEN * bins) return null;
  const rough = texture.inside[0] / texture.inside[1] / (texture.beside[0] / texture.beside[1]);
  if (rough < TEXTURE.least || rough > TEXTURE.most) return null;
  const own = depths.map((sum) =>
    settled(smoothed(sum.map((v, b) => (counts[b] >= LEAST ? v / counts[b] : NaN))), beyond, open),
  );
  return isShade(own, beyond, line.wide) ? { first: beyond, depths: own } : null;
}

/** The pixel whose middle lies so many px along and away. */
function cellAt(side: Side, s: number, n: number): { x: number; y: number } {
  const { x, y } = side.at(s + 0.5, n + 0.5);
  return { x: Math.floor(x), y: Math.floor(y) };
}

/** Whether a profile darkens all channels about alike. */
function isShade(depths: readonly Float32Array[], first: number, wide: number): boolean {
  const middle = depths.map((d) =>
    quantile(d.subarray(first + Math.floor(0.2 * wide), first + Math.ceil(0.8 * wide)), 0.5),
  );
  const mean = middle.reduce((a, b) => a + b, 0) / middle.length;
  return mean > 0 && Math.max(...middle) - Math.min(...middle) <= COLOUR * mean;
}

/** Depth of a profile at a place across it. */
export function depthAt({ first, depths }: Profile, channel: number, place: number): number {
  const values = depths[channel];
  const at = place + first - 0.5;
  if (!(at >= 0)) return 0;
  const i = Math.floor(at);
  // One that runs on past the corner is as deep there as at the corner; any other has come down to nothing.
  if (i + 1 >= values.length) return values[values.length - 1];
  return values[i] + (at - i) * (values[i + 1] - values[i]);
}
