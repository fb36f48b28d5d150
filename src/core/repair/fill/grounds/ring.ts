import { knownMean } from '../layout/features.ts';
import type { Level } from '../layout/levels.ts';

/** Lanes of {@link toneOfLevel}: mean colour, and how much goes on. */
export const TONE_LANES = 4;
/** Weight of how much goes on against colour. */
const TEXTURE = 1.5;

/** Mean colour and mean slope of luma around every pixel of a level, from known pixels, {@link TONE_LANES} floats a pixel. */
export function toneOfLevel(level: Level, reach = 2): Float32Array {
  const { width, height, pixels, known } = level;
  const n = width * height;
  const sure = Float32Array.from(known);
  const out = new Float32Array(n * TONE_LANES);
  const plane = new Float32Array(n);
  for (let c = 0; c < 3; c++) {
    for (let i = 0; i < n; i++) plane[i] = pixels[4 * i + c];
    const mean = knownMean(plane, sure, width, height, reach);
    for (let i = 0; i < n; i++) out[i * TONE_LANES + c] = mean[i];
  }
  const both = new Float32Array(n);
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      plane[i] = 0;
      if (x + 1 >= width || y + 1 >= height || !known[i] || !known[i + 1] || !known[i + width]) continue;
      both[i] = 1;
      const luma = (j: number) => 0.3 * pixels[4 * j] + 0.59 * pixels[4 * j + 1] + 0.11 * pixels[4 * j + 2];
      plane[i] = Math.abs(luma(i + 1) - luma(i)) + Math.abs(luma(i + width) - luma(i));
    }
  }
  const slope = knownMean(plane, both, width, height, reach + 2);
  for (let i = 0; i < n; i++) out[i * TONE_LANES + 3] = TEXTURE * slope[i];
  return out;
}

/** The outline of a cover at some distance, point by point in order; −1 where it leaves the picture. */
export interface Ring {
  /** pixels of the level, in order around the cover */
  places: Int32Array;
  /** whether it runs all around within the picture */
  closed: boolean;
}

const AROUND: ReadonlyArray<readonly [number, number]> = [
  [1, 0],
  [1, 1],
  [0, 1],
  [-1, 1],
  [-1, 0],
  [-1, -1],
  [0, -1],
  [1, -1],
];

/**
 * Follows the outline of the largest part of a cover `distance` px outside it. Where that leaves the picture the ring is open and
 * begins behind the gap.
 */
export function ringAround(level: Level, distance: number): Ring {
  // With room around, so that the outline of a cover at the picture's edge can be followed too.
  const pad = distance + 2;
  const width = level.width + 2 * pad;
  const height = level.height + 2 * pad;
  const grown = new Uint8Array(width * height);
  for (let y = 0; y < level.height; y++) {
    for (let x = 0; x < level.width; x++) {
      if (!level.cover[y * level.width + x]) continue;
      for (let v = -distance; v <= distance; v++) {
        const half = Math.floor(Math.sqrt(distance * distance - v * v));
        const at = (y + pad + v) * width + x + pad;
        grown.fill(1, at - half, at + half + 1);
      }
    }
  }
  let best: number[] = [];
  const seen = new Uint8Array(width * height);
  for (let start = 0; start < grown.length; start++) {
    if (!grown[start] || grown[start - 1] || seen[start]) continue;
    const outline = follow(grown, width, start, seen);
    if (outline.length > best.length) best = outline;
  }
  const inside = best.map((i) => {
    const x = (i % width) - pad;
    const y = Math.floor(i / width) - pad;
    return x >= 0 && y >= 0 && x < level.width && y < level.height && level.known[y * level.width + x]
      ? y * level.width + x
      : -1;
  });
  const gap = inside.indexOf(-1);
  if (gap < 0) return { places: Int32Array.from(inside), closed: true };
  // Begun behind the longest gap.
  let [longest, begin] = [0, 0];
  for (let n = 0; n < inside.length; n++) {
    if (inside[n] >= 0) continue;
    let length = 1;
    while (length < inside.length && inside[(n + length) % inside.length] < 0) length++;
    if (length > longest) [longest, begin] = [length, (n + length) % inside.length];
  }
  const turned = [...inside.slice(begin), ...inside.slice(0, begin)].filter((i) => i >= 0);
  // A few stray unknown places do not open it.
  return { places: Int32Array.from(turned), closed: longest < 4 };
}

/** Moore's boundary following from a leftmost pixel. */
function follow(mask: Uint8Array, width: number, start: number, seen: Uint8Array): number[] {
  const out: number[] = [];
  let at = start;
  let from = 4;
  for (let n = 0; n < 4 * mask.length; n++) {
    out.push(at);
    seen[at] = 1;
    let next = -1;
    for (let k = 1; k <= 8; k++) {
      const d = (from + k) & 7;
      const [dx, dy] = AROUND[d];
      const j = at + dy * width + dx;
      if (j >= 0 && j < mask.length && mask[j]) {
        next = j;
        from = (d + 4) & 7;
        break;
      }
    }
    if (next < 0 || (next === start && out.length > 2)) break;
    at = next;
  }
  return out;
}

/** A stretch of the ring on one ground: places from `from` up to before `to` (may pass the end of a closed ring). */
export interface Arc {
  from: number;
  to: number;
  mean: Float64Array;
}

/** Least contrast of two grounds, in units of tone, and least share of the variation around that a division must explain. */
const CONTRAST = 16;
const EXPLAINED = 0.5;

/** Sums of tone along the ring, so that the spread of any stretch is known at once. */
class Along {
  readonly count: number;
  private readonly sums: Float64Array;
  private readonly squares: Float64Array;

  constructor(
    tones: Float32Array,
    private readonly places: Int32Array,
  ) {
    this.count = places.length;
    const n = 2 * this.count + 1;
    this.sums = new Float64Array(n * TONE_LANES);
    this.squares = new Float64Array(n);
    for (let k = 0; k + 1 < n; k++) {
      const i = this.places[k % this.count] * TONE_LANES;
      let square = this.squares[k];
      for (let c = 0; c < TONE_LANES; c++) {
        this.sums[(k + 1) * TONE_LANES + c] = this.sums[k * TONE_LANES + c] + tones[i + c];
        square += tones[i + c] ** 2;
      }
      this.squares[k + 1] = square;
    }
  }

  mean(from: number, to: number): Float64Array {
    const out = new Float64Array(TONE_LANES);
    for (let c = 0; c < TONE_LANES; c++)
      out[c] = (this.sums[to * TONE_LANES + c] - this.sums[from * TONE_LANES + c]) / (to - from);
    return out;
  }

  /** Sum of squared departures from the mean. */
  spread(from: number, to: number): number {
    let out = this.squares[to] - this.squares[from];
    for (let c = 0; c < TONE_LANES; c++)
      out -= (this.sums[to * TONE_LANES + c] - this.sums[from * TONE_LANES + c]) ** 2 / (to - from);
    return Math.max(0, out);
  }
}

/** How far tone strays from its mean along a ring, as a root mean square. */
export function spreadAlong(tones: Float32Array, { places }: Ring): number {
  const along = new Along(tones, places);
  return along.count ? Math.sqrt(along.spread(0, along.count) / along.count) : 0;
}

const contrastOf = (a: Float64Array, b: Float64Array) => Math.sqrt(a.reduce((s, v, c) => s + (v - b[c]) ** 2, 0));

/**
 * Divides the ring into two to four arcs of different ground; one arc when it is all of a kind. Stretches are added as long as
 * each explains much of what is left.
 */
export function arcsOf(tones: Float32Array, { places, closed }: Ring): Arc[] {
  const along = new Along(tones, places);
  const n = along.count;
  const least = Math.max(5, Math.round(0.05 * n));
  if (n < 4 * least) return [];
  const total = along.spread(0, n);
  // Two arcs: of a closed ring by two cuts, of an open one by one.
  let best: number[] = [];
  let rest = Infinity;
  if (closed) {
    for (let i = 0; i < n; i++) {
      for (let j = i + least; j <= i + n - least && j < n; j++) {
        const w = along.spread(i, j) + along.spread(j, i + n);
        if (w < rest) [rest, best] = [w, [i, j]];
      }
    }
  } else {
    for (let j = least; j <= n - least; j++) {
      const w = along.spread(0, j) + along.spread(j, n);
      if (w < rest) [rest, best] = [w, [0, j]];
    }
  }
  const arcs = (cuts: number[]): Arc[] =>
    cuts.map((from, k) => {
      const to = k + 1 < cuts.length ? cuts[k + 1] : closed ? cuts[0] + n : n;
      return { from, to, mean: along.mean(from, to) };
    });
  const clear = (list: Arc[]) =>
    list.every((arc, k) => {
      const next = list[(k + 1) % list.length];
      return (!closed && k === list.length - 1) || contrastOf(arc.mean, next.mean) >= CONTRAST;
    });
  if (!best.length || (total - rest) / total < EXPLAINED || !clear(arcs(best))) return [];
  // More cuts, one or two at a time, within an arc.
  while (best.length < 4) {
    let found: number[] | null = null;
    let left = rest;
    for (const { from, to } of arcs(best)) {
      const own = along.spread(from, to);
      for (let i = from + least; i <= to - least; i++) {
        const one = rest - own + along.spread(from, i) + along.spread(i, to);
        if (one < left) [left, found] = [one, [...best, i]];
        if (best.length > 2) continue;
        for (let j = i + least; j <= to - least; j++) {
          const two = rest - own + along.spread(from, i) + along.spread(i, j) + along.spread(j, to);
          // Two cuts must explain more than one.
          if (two < 0.75 * left) [left, found] = [two, [...best, i, j]];
        }
      }
    }
    if (!found || (rest - left) / rest < EXPLAINED) break;
    const cuts = found.map((c) => (closed ? c % n : c)).sort((a, b) => a - b);
    if (!clear(arcs(cuts))) break;
    best = cuts;
    rest = left;
  }
  return arcs(best);
}
