import { withKernels, type Kernels } from '../kernels/memory.ts';

/** The unknown pixels of one grid. They are numbered like a chessboard: those of the first `red` have no neighbours among each other. */
interface Grid {
  width: number;
  height: number;
  count: number;
  red: number;
  /** pixel → unknown number, or −1 known, −2 outside the domain */
  number: Int32Array;
  pixels: Int32Array;
}

/** A grid in the memory of the kernels; addresses in bytes. */
interface Level {
  grid: Grid;
  /** right, left, below, above of each unknown, as byte offsets of nodes */
  links: number;
  /** neighbours inside the domain, known or unknown */
  degrees: number;
  /** node of the next coarser grid, as a byte offset */
  parents: number;
  /** four floats a node, and a node of zeros at the end */
  value: number;
  rhs: number;
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

/** Bytes of a node. */
const NODE = 16;

function gridOf(unknown: Uint8Array, width: number, height: number, outside?: Uint8Array): Grid {
  const number = new Int32Array(width * height);
  for (let i = 0; i < number.length; i++) number[i] = outside?.[i] && !unknown[i] ? -2 : -1;
  let count = 0;
  let red = 0;
  for (let colour = 0; colour < 2; colour++) {
    for (let y = 0; y < height; y++) {
      for (let i = y * width + ((y + colour) & 1); i < (y + 1) * width; i += 2) if (unknown[i]) number[i] = count++;
    }
    if (colour === 0) red = count;
  }
  const pixels = new Int32Array(count);
  for (let i = 0; i < number.length; i++) if (number[i] >= 0) pixels[number[i]] = i;
  return { width, height, count, red, number, pixels };
}

function levelOf(k: Kernels, grid: Grid): Level {
  const { width, height, count, number, pixels } = grid;
  const bytes = (count + 1) * NODE;
  const links = k.reserve(count * 16);
  const degrees = k.reserve(count);
  const parents = k.reserve(count * 4);
  const value = k.reserve(bytes);
  const rhs = k.reserve(bytes);
  const link = k.i32(links, count * 4);
  const degree = k.u8(degrees, count);
  const none = count * NODE;
  for (let n = 0; n < count; n++) {
    const i = pixels[n];
    const x = i % width;
    const right = x + 1 < width ? number[i + 1] : -2;
    const left = x > 0 ? number[i - 1] : -2;
    const below = i + width < width * height ? number[i + width] : -2;
    const above = i >= width ? number[i - width] : -2;
    link[4 * n] = right >= 0 ? right * NODE : none;
    link[4 * n + 1] = left >= 0 ? left * NODE : none;
    link[4 * n + 2] = below >= 0 ? below * NODE : none;
    link[4 * n + 3] = above >= 0 ? above * NODE : none;
    degree[n] = (right === -2 ? 0 : 1) + (left === -2 ? 0 : 1) + (below === -2 ? 0 : 1) + (above === -2 ? 0 : 1);
  }
  return { grid, links, degrees, parents, value, rhs };
}

/** The grid of half the size: a pixel is unknown when most of what it stands for is, so that thin known gaps stay boundaries. */
function halved(fine: Grid): Grid {
  const w = (fine.width + 1) >> 1;
  const h = (fine.height + 1) >> 1;
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
    unknown[c] = votes[c] * 2 > inside[c] ? 1 : 0;
    outside[c] = inside[c] === 0 ? 1 : 0;
  }
  return gridOf(unknown, w, h, outside);
}

function levelsOf(k: Kernels, finest: Grid): Level[] {
  const levels = [levelOf(k, finest)];
  for (;;) {
    const { grid: fine, parents } = levels[levels.length - 1];
    if (fine.count <= 64 || fine.width <= 4 || fine.height <= 4) return levels;
    const coarse = halved(fine);
    if (coarse.count === 0) return levels;
    levels.push(levelOf(k, coarse));
    const parent = k.i32(parents, fine.count);
    for (let n = 0; n < fine.count; n++) {
      const i = fine.pixels[n];
      const p = coarse.number[(Math.floor(i / fine.width) >> 1) * coarse.width + ((i % fine.width) >> 1)];
      parent[n] = (p >= 0 ? p : coarse.count) * NODE;
    }
  }
}

/** One V-cycle for the right side `rhs` of level `at`; what stands in `value` is the answer. */
function cycle(k: Kernels, levels: Level[], at: number, value: number, rhs: number): void {
  const { grid, links, degrees, parents } = levels[at];
  const { count, red } = grid;
  const relax = (first: number, last: number, omega: number) =>
    k.run.poissonRelax(value, rhs, links, degrees, first, last, omega);
  k.f32(value, (count + 1) * 4).fill(0);
  if (at === levels.length - 1) {
    for (let s = 0; s < 30; s++) {
      relax(0, red, 1.5);
      relax(red, count, 1.5);
    }
    for (let s = 0; s < 30; s++) {
      relax(red, count, 1.5);
      relax(0, red, 1.5);
    }
    return;
  }
  // Before and after alike, so that the whole is symmetric, as conjugate gradients want it.
  const smooth = () => {
    relax(0, red, 1);
    relax(red, count, 1);
    relax(0, red, 1);
  };
  smooth();
  const coarse = levels[at + 1];
  k.f32(coarse.rhs, (coarse.grid.count + 1) * 4).fill(0);
  k.run.poissonRestrict(value, rhs, links, degrees, parents, coarse.rhs, count);
  cycle(k, levels, at + 1, coarse.value, coarse.rhs);
  k.run.poissonProlong(value, parents, coarse.value, count);
  smooth();
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

/** {@link solvePoisson} for up to four channels over the same unknowns, which are solved together. */
export function solvePoissonChannels(
  values: Float32Array[],
  unknown: Uint8Array,
  width: number,
  height: number,
  rhs?: Float32Array[],
  { tolerance = 0.05, cycles = 12, outside }: PoissonOptions = {},
): number {
  const grid = gridOf(unknown, width, height, outside);
  if (grid.count === 0) return 0;
  return withKernels((k) => {
    const levels = levelsOf(k, grid);
    const { count, pixels, number } = grid;
    const { value, rhs: source } = levels[0];
    const lanes = values.length;
    const x = k.reserve((count + 1) * NODE);
    const p = k.reserve((count + 1) * NODE);
    const at = k.f32(x, (count + 1) * 4).fill(0);
    const side = k.f32(source, (count + 1) * 4).fill(0);
    k.f32(p, (count + 1) * 4).fill(0);
    for (let n = 0; n < count; n++) {
      const i = pixels[n];
      const px = i % width;
      const right = px + 1 < width && number[i + 1] === -1;
      const left = px > 0 && number[i - 1] === -1;
      const below = i + width < number.length && number[i + width] === -1;
      const above = i >= width && number[i - width] === -1;
      for (let c = 0; c < lanes; c++) {
        const plane = values[c];
        let s = rhs ? rhs[c][i] : 0;
        if (right) s += plane[i + 1];
        if (left) s += plane[i - 1];
        if (below) s += plane[i + width];
        if (above) s += plane[i - width];
        at[4 * n + c] = plane[i];
        side[4 * n + c] = s;
      }
    }
    const used = conjugateGradients(k, levels, { x, p, z: value, r: source }, lanes, tolerance, cycles);
    const found = k.f32(x, count * 4);
    for (let c = 0; c < lanes; c++) {
      const plane = values[c];
      for (let n = 0; n < count; n++) plane[pixels[n]] = found[4 * n + c];
    }
    return used;
  });
}

/** Addresses of the vectors of {@link conjugateGradients}; `r` holds the right side at first. */
interface Vectors {
  x: number;
  p: number;
  z: number;
  r: number;
}

function conjugateGradients(
  k: Kernels,
  levels: Level[],
  { x, p, z, r }: Vectors,
  lanes: number,
  tolerance: number,
  most: number,
): number {
  const { grid, links, degrees } = levels[0];
  const { count } = grid;
  const factors = k.reserve(16);
  const sums = k.reserve(32);
  const read = () => Array.from(k.f64(sums, 4));
  const solved = [0, 1, 2, 3].map((c) => c >= lanes);
  k.run.poissonResidual(x, r, links, degrees, r, count);
  cycle(k, levels, 0, z, r);
  k.u8(p, count * NODE).set(k.u8(z, count * NODE));
  k.run.poissonDot(r, z, sums, count);
  let rz = read();
  for (let n = 1; n <= most; n++) {
    // z is free until the next cycle and takes −A p.
    k.run.poissonApply(p, links, degrees, z, sums, count);
    const pap = read().map((s) => -s);
    for (let c = 0; c < 4; c++) if (!(pap[c] > 0) || !(rz[c] > 0)) solved[c] = true;
    k.f32(factors, 4).set(pap.map((s, c) => (solved[c] ? 0 : rz[c] / s)));
    k.run.poissonStep(x, r, p, z, factors, count);
    k.f32(factors, 4).forEach((change, c) => (solved[c] ||= change < tolerance));
    if (solved.every(Boolean)) return n;
    cycle(k, levels, 0, z, r);
    k.run.poissonDot(r, z, sums, count);
    const next = read();
    k.f32(factors, 4).set(next.map((s, c) => (solved[c] ? 0 : s / rz[c])));
    rz = next;
    k.run.poissonTurn(p, z, factors, count);
  }
  return most;
}
