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
}

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
/** px that a join keeps from where a frame ends, as far as it can, and what it costs to be closer. */
const RIM = 3;
const NEAR = 6;

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

/** Stretches of a way that run through what differs: their middles, and how long they are. */
function cutsAlong(way: Int32Array, costs: Float32Array, width: number, from: number, to: number) {
  const out: Array<{ at: number; length: number }> = [];
  let run = 0;
  for (let v = from; v <= to + 1; v++) {
    const cost = v <= to ? costs[v * width + way[v]] : OUTSIDE;
    if (cost < OUTSIDE && cost - LENGTH - BUSY * MOST_BUSY > MOVED) run++;
    else {
      if (run >= LONG) out.push({ at: v - 1 - (run >> 1), length: run });
      run = 0;
    }
  }
  return out;
}

/**
 * Parts a canvas among frames: each is joined to those before it along the way on which both differ least, by dynamic programming over
 * what both show.
 * Source: minimum error boundary cuts, Efros & Freeman 2001.
 */
export function seamsOf(frames: readonly Laid[], width: number, height: number): Seams {
  const labels = new Uint8Array(width * height);
  const cuts: Cut[] = [];
  const middles = frames.map((f) => middleOf(f, width));
  const spreadOf = (c: 0 | 1) => Math.max(...middles.map((m) => m[c])) - Math.min(...middles.map((m) => m[c]));
  // From left to right, or from top to bottom.
  const across = spreadOf(0) >= spreadOf(1);
  const order = [...frames.keys()].sort((a, b) => middles[a][across ? 0 : 1] - middles[b][across ? 0 : 1]);
  const [w, h] = across ? [width, height] : [height, width];
  const at = (u: number, v: number) => (across ? v * width + u : u * width + v);
  const whole = new Float32Array(width * height).fill(NaN);
  for (const n of order) {
    const own = frames[n];
    const turned = across ? [whole, own] : [flipped(whole, width, height), flipped(own, width, height)];
    const costs = costsOf(turned[0], turned[1], w, h);
    let [from, to] = [h, -1];
    for (let v = 0; v < h; v++)
      for (let u = 0; u < w; u++)
        if (costs[v * w + u] < OUTSIDE) {
          from = Math.min(from, v);
          to = v;
          break;
        }
    const way = to >= from ? wayDown(costs, w, h, from, to) : null;
    const before = labels.slice();
    for (let v = 0; v < h; v++)
      for (let u = 0; u < w; u++) {
        const i = at(u, v);
        if (!(own[i] === own[i])) continue;
        const both = labels[i] > 0;
        if (both && !(way && way[v] >= 0 && u >= way[v])) continue;
        labels[i] = n + 1;
        whole[i] = own[i];
      }
    if (!way) continue;
    for (const { at: v, length } of cutsAlong(way, costs, w, from, to)) {
      const i = at(way[v], v);
      cuts.push({ x: i % width, y: Math.floor(i / width), length, frames: [(before[i] || 1) - 1, n] });
    }
  }
  return { labels, cuts };
}
