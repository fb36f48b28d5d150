/** Sparse layout of the unknown pixels of one grid: neighbours right, left, below, above as unknown numbers or −1. */
interface Grid {
  width: number;
  height: number;
  count: number;
  /** pixel → unknown number, or −1 known, −2 outside the domain */
  number: Int32Array;
  pixels: Int32Array;
  neighbours: Int32Array;
  /** neighbours inside the domain, known or unknown */
  degree: Float32Array;
}

/** Options of {@link solvePoisson}. */
export interface PoissonOptions {
  /** Largest change, in sample units, at which the solution counts as found. Default 0.05. */
  tolerance?: number;
  /** Most V-cycles. Default 12. */
  cycles?: number;
  /** Non-zero where a known pixel lies outside the domain: nothing flows to or from it. */
  outside?: Uint8Array;
}

function layOut(unknown: Uint8Array, width: number, height: number, outside?: Uint8Array): Grid {
  const number = new Int32Array(width * height);
  let count = 0;
  for (let i = 0; i < number.length; i++) number[i] = unknown[i] ? count++ : outside?.[i] ? -2 : -1;
  const pixels = new Int32Array(count);
  const neighbours = new Int32Array(count * 4);
  const degree = new Float32Array(count);
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      const n = number[i];
      if (n < 0) continue;
      pixels[n] = i;
      const right = x + 1 < width ? number[i + 1] : -2;
      const left = x > 0 ? number[i - 1] : -2;
      const below = y + 1 < height ? number[i + width] : -2;
      const above = y > 0 ? number[i - width] : -2;
      const at = n << 2;
      neighbours[at] = right >= 0 ? right : -1;
      neighbours[at + 1] = left >= 0 ? left : -1;
      neighbours[at + 2] = below >= 0 ? below : -1;
      neighbours[at + 3] = above >= 0 ? above : -1;
      degree[n] = (right === -2 ? 0 : 1) + (left === -2 ? 0 : 1) + (below === -2 ? 0 : 1) + (above === -2 ? 0 : 1);
    }
  }
  return { width, height, count, number, pixels, neighbours, degree };
}

function smooth(grid: Grid, value: Float32Array, rhs: Float32Array, sweeps: number, omega: number): void {
  const { count, neighbours, degree } = grid;
  for (let s = 0; s < sweeps; s++) {
    const back = (s & 1) === 1;
    for (let m = 0; m < count; m++) {
      const n = back ? count - 1 - m : m;
      const d = degree[n];
      if (d === 0) continue;
      let sum = rhs[n];
      const at = n << 2;
      const a = neighbours[at];
      const b = neighbours[at + 1];
      const c = neighbours[at + 2];
      const e = neighbours[at + 3];
      if (a >= 0) sum += value[a];
      if (b >= 0) sum += value[b];
      if (c >= 0) sum += value[c];
      if (e >= 0) sum += value[e];
      value[n] += omega * (sum / d - value[n]);
    }
  }
}

function residual(grid: Grid, value: Float32Array, rhs: Float32Array): Float32Array {
  const { count, neighbours, degree } = grid;
  const out = new Float32Array(count);
  for (let n = 0; n < count; n++) {
    let sum = rhs[n] - degree[n] * value[n];
    const at = n << 2;
    const a = neighbours[at];
    const b = neighbours[at + 1];
    const c = neighbours[at + 2];
    const e = neighbours[at + 3];
    if (a >= 0) sum += value[a];
    if (b >= 0) sum += value[b];
    if (c >= 0) sum += value[c];
    if (e >= 0) sum += value[e];
    out[n] = sum;
  }
  return out;
}

interface Level {
  grid: Grid;
  /** unknown of this level → unknown of the next coarser, or −1 */
  parent: Int32Array;
}

function coarsen(grid: Grid): Level[] {
  const levels: Level[] = [];
  let fine = grid;
  for (;;) {
    const w = (fine.width + 1) >> 1;
    const h = (fine.height + 1) >> 1;
    const worth = fine.count > 64 && w > 2 && h > 2;
    const parent = new Int32Array(fine.count).fill(-1);
    levels.push({ grid: fine, parent });
    if (!worth) return levels;
    const votes = new Uint8Array(w * h);
    const inside = new Uint8Array(w * h);
    for (let y = 0, i = 0; y < fine.height; y++) {
      for (let x = 0; x < fine.width; x++, i++) {
        const c = (y >> 1) * w + (x >> 1);
        if (fine.number[i] >= 0) votes[c]++;
        if (fine.number[i] !== -2) inside[c]++;
      }
    }
    const unknown = new Uint8Array(w * h);
    const outside = new Uint8Array(w * h);
    for (let c = 0; c < votes.length; c++) {
      // A coarse pixel is unknown when most of what it stands for is, so that thin known gaps stay boundaries.
      unknown[c] = votes[c] * 2 > inside[c] ? 1 : 0;
      outside[c] = inside[c] === 0 ? 1 : 0;
    }
    const coarse = layOut(unknown, w, h, outside);
    for (let n = 0; n < fine.count; n++) {
      const i = fine.pixels[n];
      const p = coarse.number[(Math.floor(i / fine.width) >> 1) * w + ((i % fine.width) >> 1)];
      parent[n] = p >= 0 ? p : -1;
    }
    if (coarse.count === 0) return levels;
    fine = coarse;
  }
}

function cycle(levels: Level[], at: number, value: Float32Array, rhs: Float32Array): void {
  const { grid, parent } = levels[at];
  if (at === levels.length - 1) {
    smooth(grid, value, rhs, 60, 1.5);
    return;
  }
  smooth(grid, value, rhs, 2, 1);
  const rest = residual(grid, value, rhs);
  const coarse = levels[at + 1].grid;
  const below = new Float32Array(coarse.count);
  for (let n = 0; n < grid.count; n++) if (parent[n] >= 0) below[parent[n]] += rest[n];
  const correction = new Float32Array(coarse.count);
  cycle(levels, at + 1, correction, below);
  for (let n = 0; n < grid.count; n++) if (parent[n] >= 0) value[n] += correction[parent[n]];
  smooth(grid, value, rhs, 2, 1);
}

/**
 * Solves the discrete Poisson equation on the pixels where `unknown` is non-zero: for each of them
 * Σ(neighbour − value) = −rhs over the up to four neighbours inside the picture. Known neighbours keep their value
 * (Dirichlet), the picture's edge lets nothing through (Neumann). With `rhs` zero the result is the membrane
 * (harmonic) interpolation. Multigrid V-cycles used as preconditioner of conjugate gradients.
 *
 * @param value one channel, width × height; read at known pixels and as first guess, overwritten at unknown ones
 * @param rhs one value a pixel (width × height) or undefined for zero
 * @returns V-cycles used
 * Source: Pérez, Gangnet & Blake, "Poisson Image Editing", 2003 (equation); multigrid-preconditioned conjugate
 * gradients after Tatebe 1993, from memory.
 */
export function solvePoisson(
  value: Float32Array,
  unknown: Uint8Array,
  width: number,
  height: number,
  rhs?: Float32Array,
  options: PoissonOptions = {},
): number {
  return solvePoissonChannels([value], unknown, width, height, rhs && [rhs], options);
}

/** {@link solvePoisson} for several channels over the same unknowns; the grids are laid out once. */
export function solvePoissonChannels(
  values: Float32Array[],
  unknown: Uint8Array,
  width: number,
  height: number,
  rhs?: Float32Array[],
  { tolerance = 0.05, cycles = 12, outside }: PoissonOptions = {},
): number {
  const grid = layOut(unknown, width, height, outside);
  if (grid.count === 0) return 0;
  const levels = coarsen(grid);
  const known = new Uint8Array(unknown.length);
  for (let i = 0; i < known.length; i++) known[i] = unknown[i] || outside?.[i] ? 0 : 1;
  let most = 0;
  for (let c = 0; c < values.length; c++) {
    const value = values[c];
    const x = new Float32Array(grid.count);
    const b = new Float32Array(grid.count);
    for (let n = 0; n < grid.count; n++) {
      const i = grid.pixels[n];
      x[n] = value[i];
      let s = rhs ? rhs[c][i] : 0;
      const px = i % width;
      if (px + 1 < width && known[i + 1]) s += value[i + 1];
      if (px > 0 && known[i - 1]) s += value[i - 1];
      if (i + width < value.length && known[i + width]) s += value[i + width];
      if (i >= width && known[i - width]) s += value[i - width];
      b[n] = s;
    }
    most = Math.max(most, conjugateGradients(levels, x, b, tolerance, cycles));
    for (let n = 0; n < grid.count; n++) value[grid.pixels[n]] = x[n];
  }
  return most;
}

function dot(a: Float32Array, b: Float32Array): number {
  let s = 0;
  for (let i = 0; i < a.length; i++) s += a[i] * b[i];
  return s;
}

function conjugateGradients(
  levels: Level[],
  x: Float32Array,
  b: Float32Array,
  tolerance: number,
  most: number,
): number {
  const { grid } = levels[0];
  const zero = new Float32Array(grid.count);
  const r = residual(grid, x, b);
  let z = new Float32Array(grid.count);
  cycle(levels, 0, z, r);
  const p = z.slice();
  let rz = dot(r, z);
  for (let k = 1; k <= most; k++) {
    const ap = residual(grid, p, zero);
    for (let i = 0; i < ap.length; i++) ap[i] = -ap[i];
    const pap = dot(p, ap);
    if (!(pap > 0) || !(rz > 0)) return k;
    const alpha = rz / pap;
    let change = 0;
    for (let i = 0; i < x.length; i++) {
      const step = alpha * p[i];
      x[i] += step;
      r[i] -= alpha * ap[i];
      const size = step < 0 ? -step : step;
      if (size > change) change = size;
    }
    if (change < tolerance) return k;
    z = new Float32Array(grid.count);
    cycle(levels, 0, z, r);
    const next = dot(r, z);
    const beta = next / rz;
    rz = next;
    for (let i = 0; i < p.length; i++) p[i] = z[i] + beta * p[i];
  }
  return most;
}
