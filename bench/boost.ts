// Gradient-boosted decision trees for the finders' scores.
// Source: Friedman, "Greedy function approximation: a gradient boosting machine", 2001, with second-order leaves as in
// Chen and Guestrin, "XGBoost: a scalable tree boosting system", 2016; features are binned.
import { writeFileSync } from 'node:fs';
import type { Forest, Tree } from '../src/core/find/scoring/forest.ts';

export interface Example {
  x: Float32Array;
  y: 0 | 1;
  weight: number;
}

export interface BoostOptions {
  trees: number;
  depth: number;
  rate: number;
  /** least sum of second derivatives in a leaf */
  least: number;
  /** how much leaves are shrunk */
  ridge: number;
  /** share of the examples and of the features a tree sees */
  rows: number;
  columns: number;
  random: () => number;
}

const BINS = 64;

/** Fits trees whose leaves add up to the logit of an example's being of class 1. */
export function fitForest(data: Example[], options: BoostOptions): Forest {
  const n = data.length;
  const features = data[0].x.length;
  // Thresholds between equal shares of the examples.
  const edges: Float32Array[] = [];
  const bins = Array.from({ length: features }, () => new Uint8Array(n));
  for (let f = 0; f < features; f++) {
    const sorted = Float32Array.from(data, (d) => d.x[f]).sort();
    const cuts: number[] = [];
    for (let b = 1; b < BINS; b++) {
      const at = Math.floor((b * n) / BINS);
      const cut = (sorted[at] + sorted[Math.max(0, at - 1)]) / 2;
      if (!cuts.length || cut > cuts[cuts.length - 1]) cuts.push(cut);
    }
    edges.push(Float32Array.from(cuts));
    for (let i = 0; i < n; i++) {
      let [low, high] = [0, cuts.length];
      while (low < high) {
        const mid = (low + high) >> 1;
        if (data[i].x[f] > edges[f][mid]) low = mid + 1;
        else high = mid;
      }
      bins[f][i] = low;
    }
  }
  let positive = 0;
  let all = 0;
  for (const d of data) {
    all += d.weight;
    if (d.y) positive += d.weight;
  }
  const bias = Math.log(positive / (all - positive));
  const logit = new Float32Array(n).fill(bias);
  const g = new Float32Array(n);
  const h = new Float32Array(n);
  const trees: Tree[] = [];
  const inner = 2 ** options.depth - 1;
  for (let t = 0; t < options.trees; t++) {
    for (let i = 0; i < n; i++) {
      const p = 1 / (1 + Math.exp(-logit[i]));
      g[i] = (data[i].y - p) * data[i].weight;
      h[i] = p * (1 - p) * data[i].weight;
    }
    const used: number[] = [];
    for (let i = 0; i < n; i++) if (options.random() < options.rows) used.push(i);
    const columns: number[] = [];
    for (let f = 0; f < features; f++) if (options.random() < options.columns) columns.push(f);
    const feature = new Array<number>(inner).fill(-1);
    const threshold = new Array<number>(inner).fill(0);
    const binOf = new Array<number>(inner).fill(0);
    const node = new Int32Array(n);
    for (let level = 0; level < options.depth; level++) {
      const first = 2 ** level - 1;
      const count = 2 ** level;
      const best = Array.from({ length: count }, () => ({ gain: 1e-6, f: -1, b: 0 }));
      const sums = new Float64Array(count * 2);
      for (const i of used) {
        sums[(node[i] - first) * 2] += g[i];
        sums[(node[i] - first) * 2 + 1] += h[i];
      }
      for (const f of columns) {
        const hist = new Float64Array(count * BINS * 2);
        const mine = bins[f];
        for (const i of used) {
          const at = ((node[i] - first) * BINS + mine[i]) * 2;
          hist[at] += g[i];
          hist[at + 1] += h[i];
        }
        for (let k = 0; k < count; k++) {
          const [G, H] = [sums[2 * k], sums[2 * k + 1]];
          let [gl, hl] = [0, 0];
          for (let b = 0; b < edges[f].length; b++) {
            gl += hist[(k * BINS + b) * 2];
            hl += hist[(k * BINS + b) * 2 + 1];
            if (hl < options.least || H - hl < options.least) continue;
            const gain =
              (gl * gl) / (hl + options.ridge) +
              (G - gl) ** 2 / (H - hl + options.ridge) -
              (G * G) / (H + options.ridge);
            if (gain > best[k].gain) best[k] = { gain, f, b };
          }
        }
      }
      for (let k = 0; k < count; k++) {
        feature[first + k] = best[k].f;
        if (best[k].f >= 0) {
          threshold[first + k] = edges[best[k].f][best[k].b];
          binOf[first + k] = best[k].b;
        }
      }
      for (let i = 0; i < n; i++) {
        const k = node[i];
        const f = feature[k];
        node[i] = 2 * k + (f >= 0 && bins[f][i] > binOf[k] ? 2 : 1);
      }
    }
    const leafG = new Float64Array(inner + 1);
    const leafH = new Float64Array(inner + 1);
    for (const i of used) {
      leafG[node[i] - inner] += g[i];
      leafH[node[i] - inner] += h[i];
    }
    const leaf = Array.from(leafG, (v, k) => (options.rate * v) / (leafH[k] + options.ridge));
    for (let i = 0; i < n; i++) logit[i] += leaf[node[i] - inner];
    trees.push({ feature, threshold, leaf });
  }
  return { bias, depth: options.depth, trees };
}

/** A forest as lines for `readForest`, its numbers to four digits. */
export function writeForest({ bias, trees }: Forest): string[] {
  const short = (v: number) => String(Number(v.toPrecision(4)));
  const lines = trees.map(
    (t) => `${t.feature.map((f, k) => `${f}:${short(t.threshold[k])}`).join(' ')}|${t.leaf.map(short).join(' ')}`,
  );
  return [short(bias), ...lines];
}

/** Writes a forest where the core reads it. */
export function saveForest(forest: Forest, name: 'specks' | 'curves' | 'clips'): void {
  const file = new URL(`../src/core/find/scoring/forests/${name}.json`, import.meta.url);
  writeFileSync(file, `${JSON.stringify(writeForest(forest), null, 2)}\n`);
  console.log(`${file.pathname} written`);
}
