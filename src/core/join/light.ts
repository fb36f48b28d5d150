import type { Plane } from '../raster/luma.ts';
import { solveSymmetric } from '../raster/solve.ts';
import { rayOf, reachOf, seenAt, type Camera } from './camera.ts';

/** How frames differ in brightness. */
export interface Light {
  /** stops by which each frame is lighter than all on average */
  exposures: number[];
  /** stops by which light falls off to the corners: at r half diagonals, fall[0] r² + fall[1] r⁴ */
  fall: [number, number];
}

/** Places along a side of a frame that are compared. */
const GRID = 60;
/** Light that is compared: what is darker or lighter is clipped or noise. */
const USED = [0.015, 0.85] as const;
/** Stops from which on a difference counts by its size only; rounds of weighing. */
const ROBUST = 0.08;
const ROUNDS = 8;
/** Stops that a fall-off is held likely to be, and exposures: without need there are none. */
const HELD = { fall: 2, exposure: 2 };

/** Linear light of sRGB, 0 to 1, and back. Source: IEC 61966-2-1. */
export const toLight = (v: number): number => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
export const fromLight = (v: number): number => (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055);

const squareOf = (camera: Camera, x: number, y: number): number =>
  ((x + 0.5 - camera.width / 2) ** 2 + (y + 0.5 - camera.height / 2) ** 2) / reachOf(camera) ** 2;

/** Stops by which a frame has to be made lighter at so many half diagonals from its middle, squared. */
export const neededAt = ({ exposures, fall }: Light, frame: number, square: number): number =>
  fall[0] * square + fall[1] * square * square - exposures[frame];

/** Light around a place, mean of 3 × 3 px; NaN beyond. */
function lightAt({ width, height, data }: Plane, x: number, y: number): number {
  const [u, v] = [Math.round(x), Math.round(y)];
  if (u < 1 || v < 1 || u + 1 >= width || v + 1 >= height) return NaN;
  let sum = 0;
  for (let dy = -1; dy <= 1; dy++) for (let dx = -1; dx <= 1; dx++) sum += data[(v + dy) * width + u + dx];
  return toLight(sum / 9 / 255);
}

/** Light of one place in two frames: at which squares from their middles, and by how many stops it differs. */
interface Seen {
  i: number;
  j: number;
  a: number;
  b: number;
  d: number;
}

function comparedIn(lumas: readonly Plane[], cameras: ReadonlyArray<Camera | null>): Seen[] {
  const n = cameras.length;
  const rows: Seen[] = [];
  const at = [0, 0];
  for (let i = 0; i < n; i++)
    for (let j = i + 1; j < n; j++) {
      const [a, b] = [cameras[i], cameras[j]];
      if (!a || !b) continue;
      for (let v = 0; v < GRID; v++)
        for (let u = 0; u < GRID; u++) {
          const [x, y] = [((u + 0.5) * a.width) / GRID, ((v + 0.5) * a.height) / GRID];
          if (!seenAt(b, rayOf(a, x, y), at)) continue;
          const [p, q] = [lightAt(lumas[i], x, y), lightAt(lumas[j], at[0], at[1])];
          if (!(p > USED[0] && q > USED[0] && p < USED[1] && q < USED[1])) continue;
          rows.push({ i, j, a: squareOf(a, x, y), b: squareOf(b, at[0], at[1]), d: Math.log2(p / q) });
        }
    }
  return rows;
}

/**
 * Measures exposures and the fall-off of light from what overlapping frames show of the same places.
 * @param lumas brightness of each frame, softened, 0 to 255
 * Source: common practice of panorama making; a polynomial in r² after Goldman 2010.
 */
export function lightOf(lumas: readonly Plane[], cameras: ReadonlyArray<Camera | null>): Light {
  const n = cameras.length;
  const size = n + 2;
  const rows = comparedIn(lumas, cameras);
  let now: Float64Array = new Float64Array(size);
  for (let round = 0; round < ROUNDS; round++) {
    const m = new Float64Array(size * size);
    const right = new Float64Array(size);
    for (let k = 0; k < size; k++) m[k * size + k] = 1 / (k < n ? HELD.exposure : HELD.fall) ** 2;
    for (const { i, j, a, b, d } of rows) {
      const columns = [
        [i, 1],
        [j, -1],
        [n, b - a],
        [n + 1, b * b - a * a],
      ] as const;
      const off = d - columns.reduce((s, [k, v]) => s + v * now[k], 0);
      const weight = Math.abs(off) <= ROBUST ? 1 : ROBUST / Math.abs(off);
      for (const [k, v] of columns) {
        right[k] += weight * v * d;
        for (const [l, w] of columns) if (l <= k) m[k * size + l] += weight * v * w;
      }
    }
    const next = solveSymmetric(m, right, size);
    if (!next) break;
    now = next;
  }
  const used = cameras.flatMap((camera, k) => (camera ? [now[k]] : []));
  const mean = used.reduce((s, v) => s + v, 0) / Math.max(1, used.length);
  return {
    exposures: Array.from({ length: n }, (_, k) => (cameras[k] ? now[k] - mean : 0)),
    fall: [now[n], now[n + 1]],
  };
}
