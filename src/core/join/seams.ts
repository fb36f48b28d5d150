import { grownBySquare, takeGroup } from '../mask/groups.ts';
import type { Box } from '../raster/raster.ts';
import { partedByCut } from './part.ts';

/** A frame laid onto the canvas, much reduced: brightness as it is matched, NaN where the frame shows nothing. */
export type Laid = Float32Array;

/** A place where a join runs through what differs between its frames. */
export interface Cut {
  /** px of the reduced canvas */
  x: number;
  y: number;
  /** px along the join */
  length: number;
  frames: [number, number];
  /** around all that moved there, px of the reduced canvas */
  moved: Box;
  /** of each frame, whether it shows all of it: not where it ends and what moved goes on in the other */
  shown: [boolean, boolean];
}

/** What is wished of a frame, for each px of the reduced canvas: 1 it and no other, 2 not it where another shows the place, 0 nothing. */
export type Wish = Uint8Array;

export interface Seams {
  /** for each px of the reduced canvas the frame it is taken from, counted from 1; 0 where there is none */
  labels: Uint8Array;
  cuts: Cut[];
}

/** What a px of a join costs beside what differs there: long ways round are not for nothing. */
const LENGTH = 0.6;
/** What it costs beside for each level that the ground changes by: on even ground nothing is seen of a join. Up to so many levels. */
const BUSY = 0.12;
const MOST_BUSY = 40;
/** What it costs where only one frame is. */
const OUTSIDE = 1e4;
/** px that a join may go aside from one row to the next. */
const ASIDE = 2;
/** Levels from which on what differs is something that moved, and px of the join. */
const MOVED = 22;
const LONG = 4;
/** px below which it must differ by so many levels somewhere: fine texture that is not laid quite exactly differs by less. */
const SMALL = 16;
const PLAIN = 44;
/** px around what moved that belong to it: its shadow, its soft edge. */
const AROUND = 2;
/** px that a join keeps from where a frame ends, as far as it can, and what it costs to be closer. */
const RIM = 3;
const NEAR = 6;
/** px from where a frame ends within which what moved goes on beyond. */
const ENDS = 2;

/** Mean of 3 × 3 of how far two frames differ; outside of what both show a high price. */
function costsOf(a: Laid, b: Laid, width: number, height: number): Float32Array {
  const off = a.map((v, i) => Math.abs(v - b[i]));
  const out = new Float32Array(off.length).fill(OUTSIDE);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      if (!(off[i] === off[i])) continue;
      let [sum, n, known] = [0, 0, 0];
      for (let v = Math.max(0, y - RIM); v <= Math.min(height - 1, y + RIM); v += RIM)
        for (let u = Math.max(0, x - RIM); u <= Math.min(width - 1, x + RIM); u += RIM) {
          const d = off[v * width + u];
          n++;
          if (d === d) known++;
        }
      for (let v = Math.max(0, y - 1); v <= Math.min(height - 1, y + 1); v++)
        for (let u = Math.max(0, x - 1); u <= Math.min(width - 1, x + 1); u++) {
          const d = off[v * width + u];
          if (d === d) sum += d;
        }
      const beside = (k: number) => (a[k] === a[k] ? Math.abs(a[k] - a[i]) : 0);
      const busy = (x + 1 < width ? beside(i + 1) : 0) + (y + 1 < height ? beside(i + width) : 0);
      out[i] = sum / 9 + LENGTH + BUSY * Math.min(MOST_BUSY, busy) + (known < n ? NEAR : 0);
    }
  return out;
}

/** The cheapest way from the first row to the last: the column of each row (dynamic programming). */
function wayDown(costs: Float32Array, width: number, height: number, from: number, to: number): Int32Array {
  const steps = new Int8Array(width * height);
  let row = costs.slice(from * width, (from + 1) * width);
  for (let y = from + 1; y <= to; y++) {
    const next = new Float32Array(width);
    for (let x = 0; x < width; x++) {
      let [best, step] = [Infinity, 0];
      for (let d = -ASIDE; d <= ASIDE; d++) {
        const u = x + d;
        if (u < 0 || u >= width) continue;
        const cost = row[u] + 0.3 * Math.abs(d);
        if (cost < best) [best, step] = [cost, d];
      }
      next[x] = best + costs[y * width + x];
      steps[y * width + x] = step;
    }
    row = next;
  }
  const way = new Int32Array(height).fill(-1);
  let x = row.reduce((best, v, k) => (v < row[best] ? k : best), 0);
  for (let y = to; y >= from; y--) {
    way[y] = x;
    x += steps[y * width + x];
  }
  return way;
}

const middleOf = (laid: Laid, width: number): [number, number] => {
  let [x, y, n] = [0, 0, 0];
  laid.forEach((v, i) => {
    if (!(v === v)) return;
    x += i % width;
    y += Math.floor(i / width);
    n++;
  });
  return [x / Math.max(1, n), y / Math.max(1, n)];
};

const flipped = (plane: Float32Array, width: number, height: number): Float32Array => {
  const out = new Float32Array(plane.length);
  for (let y = 0, i = 0; y < height; y++) for (let x = 0; x < width; x++, i++) out[x * height + y] = plane[i];
  return out;
};

/** Levels by which two frames differ, evened over 3 × 3; 0 where not both are. */
function differences(a: Laid, b: Laid, width: number, height: number): Float32Array {
  const off = a.map((v, i) => Math.abs(v - b[i]));
  return off.map((own, i) => {
    if (!(own === own)) return 0;
    let [sum, n] = [0, 0];
    const x = i % width;
    for (let v = Math.max(0, i - x - width); v <= Math.min((height - 1) * width, i - x + width); v += width)
      for (let u = Math.max(0, x - 1); u <= Math.min(width - 1, x + 1); u++)
        if (off[v + u] === off[v + u]) [sum, n] = [sum + off[v + u], n + 1];
    return sum / n;
  });
}

function boxOfGroup(group: readonly number[], width: number): Box {
  const [xs, ys] = [group.map((i) => i % width), group.map((i) => Math.floor(i / width))];
  const [x, y] = [xs.reduce((a, b) => Math.min(a, b)), ys.reduce((a, b) => Math.min(a, b))];
  return {
    x,
    y,
    width: xs.reduce((a, b) => Math.max(a, b)) - x + 1,
    height: ys.reduce((a, b) => Math.max(a, b)) - y + 1,
  };
}

/** Whether something reaches the end of what `own` shows, where `other` goes on. */
function isLeft(group: readonly number[], own: Laid, other: Laid, width: number): boolean {
  return group.some((i) => {
    const x = i % width;
    return [x + ENDS < width ? i + ENDS : -1, x >= ENDS ? i - ENDS : -1, i + ENDS * width, i - ENDS * width].some(
      (j) => other[j] === other[j] && j >= 0 && j < own.length && !(own[j] === own[j]),
    );
  });
}

/**
 * Places where what is taken from a frame ends within something that moved, or where that ends in the frame.
 * @param pair what was joined until then, and frame `n` that is joined to it
 */
function cutsOf(labels: Uint8Array, pair: readonly [Laid, Laid], n: number, width: number): Cut[] {
  const off = differences(...pair, width, labels.length / width);
  const moved = Uint8Array.from(off, (v) => (v > MOVED ? 1 : 0));
  const out: Cut[] = [];
  const differ = (i: number, j: number) => labels[j] > 0 && labels[j] !== labels[i];
  for (let start = moved.indexOf(1); start >= 0; start = moved.indexOf(1, start)) {
    const group = takeGroup(moved, start, width);
    const ends: Array<[number, number]> = [];
    for (const i of group) {
      const x = i % width;
      const beside = [x + 1 < width ? i + 1 : -1, i + width, x > 0 ? i - 1 : -1, i - width];
      beside.forEach((j, k) => {
        // What ends between two px of it is met from both.
        if (j >= 0 && j < labels.length && differ(i, j) && (k < 2 || off[j] <= MOVED)) ends.push([i, j]);
      });
    }
    if (ends.length < LONG || (group.length < SMALL && group.every((i) => off[i] < PLAIN))) continue;
    const [i, j] = ends[ends.length >> 1];
    const frames = [labels[i] - 1, labels[j] - 1].sort((a, b) => a - b) as [number, number];
    const [before, own] = pair;
    const shown = frames.map((k) => !(k === n ? isLeft(group, own, before, width) : isLeft(group, before, own, width)));
    const place = { x: i % width, y: Math.floor(i / width) };
    out.push({
      ...place,
      length: ends.length,
      frames,
      moved: boxOfGroup(group, width),
      shown: shown as [boolean, boolean],
    });
  }
  return out;
}

/** Frames in more than one row: none of them lies all to one side of the others. */
function liesInRows(middles: ReadonlyArray<[number, number]>, frames: readonly Laid[]): boolean {
  const area = frames.reduce((sum, f) => sum + f.reduce((n, v) => n + (v === v ? 1 : 0), 0), 0) / frames.length;
  const spreadOf = (c: 0 | 1) => Math.max(...middles.map((m) => m[c])) - Math.min(...middles.map((m) => m[c]));
  return Math.min(spreadOf(0), spreadOf(1)) > 0.4 * Math.sqrt(area);
}

/**
 * Parts a canvas among frames: each is joined to those before it along the way on which both differ least. Frames in a row are parted by
 * dynamic programming over what both show; where something is wished of them, or they lie in several rows, by a minimum cut.
 * @param wishes what is wished of each frame
 * Source: minimum error boundary cuts, Efros & Freeman 2001; graph cut textures, Kwatra et al. 2003.
 */
export function seamsOf(
  frames: readonly Laid[],
  width: number,
  height: number,
  wishes: ReadonlyArray<Wish | null> = [],
): Seams {
  const labels = new Uint8Array(width * height);
  const cuts: Cut[] = [];
  const middles = frames.map((f) => middleOf(f, width));
  const spreadOf = (c: 0 | 1) => Math.max(...middles.map((m) => m[c])) - Math.min(...middles.map((m) => m[c]));
  // From left to right, or from top to bottom.
  const across = spreadOf(0) >= spreadOf(1);
  const order = [...frames.keys()].sort((a, b) => middles[a][across ? 0 : 1] - middles[b][across ? 0 : 1]);
  const byCut = wishes.some((w) => w !== null) || liesInRows(middles, frames);
  const whole = new Float32Array(width * height).fill(NaN);
  for (const n of order) {
    const own = frames[n];
    const taken = byCut
      ? partedByCut(costsOf(whole, own, width, height), whole, own, width, wished(labels, n, wishes))
      : partedByWay(whole, own, width, height, across);
    const before = whole.slice();
    for (let i = 0; i < labels.length; i++) {
      if (!(own[i] === own[i]) || (labels[i] > 0 && !taken[i])) continue;
      labels[i] = n + 1;
      whole[i] = own[i];
    }
    cuts.push(...cutsOf(labels, [before, own], n, width));
  }
  return { labels, cuts };
}

/**
 * Where each frame shows something that moved and is not shown of it: 1 there. None of it must come into what is taken beside.
 */
export function movedOf(frames: readonly Laid[], { labels }: Seams, width: number): Uint8Array[] {
  const height = labels.length / width;
  const shown = Float32Array.from(labels, (label, i) => (label ? frames[label - 1][i] : NaN));
  return frames.map((own) =>
    grownBySquare(
      Uint8Array.from(differences(shown, own, width, height), (v) => (v > MOVED ? 1 : 0)),
      width,
      height,
      AROUND,
    ),
  );
}

/** 1 where a frame is to be taken, 2 where those before it are, 0 where nothing is wished. */
function wished(labels: Uint8Array, n: number, wishes: ReadonlyArray<Wish | null>): Uint8Array {
  return labels.map((label, i) => {
    const own = wishes[n]?.[i] ?? 0;
    const other = label ? (wishes[label - 1]?.[i] ?? 0) : 0;
    if (own === 1 || (other === 2 && own !== 2)) return 1;
    return other === 1 || (own === 2 && other !== 2) ? 2 : 0;
  });
}

/** 1 where a frame is taken: beyond the way on which it differs least from those before it. */
function partedByWay(whole: Laid, own: Laid, width: number, height: number, across: boolean): Uint8Array {
  const [w, h] = across ? [width, height] : [height, width];
  const [a, b] = across ? [whole, own] : [flipped(whole, width, height), flipped(own, width, height)];
  const costs = costsOf(a, b, w, h);
  const out = new Uint8Array(width * height);
  let [from, to] = [h, -1];
  for (let v = 0; v < h; v++)
    for (let u = 0; u < w; u++)
      if (costs[v * w + u] < OUTSIDE) {
        from = Math.min(from, v);
        to = v;
        break;
      }
  if (to < from) return out;
  const way = wayDown(costs, w, h, from, to);
  for (let v = 0; v < h; v++)
    if (way[v] >= 0) for (let u = way[v]; u < w; u++) out[across ? v * width + u : u * width + v] = 1;
  return out;
}
