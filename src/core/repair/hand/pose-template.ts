import type { Point } from '../../mask/shapes.ts';
import type { Plane } from '../../raster/luma.ts';
import { solveSymmetric } from '../../raster/solve.ts';

export interface Template {
  size: number;
  /** places relative to the middle of the piece, px of this level, and their luma */
  x: Float32Array;
  y: Float32Array;
  v: Float32Array;
  /** slope of the piece at each place */
  gx: Float32Array;
  gy: Float32Array;
}

export interface Candidate {
  x: number;
  y: number;
  turn: number;
  scale: number;
  flip: boolean;
  agreement: number;
}

/** Every pixel of the piece at one level; thinned to at most `most` of them. */
export function templateOf(luma: Plane, mask: Plane, middle: Point, most: number): Template {
  const places: number[] = [];
  for (let y = 1; y < luma.height - 1; y++)
    for (let x = 1; x < luma.width - 1; x++) if (mask.data[y * luma.width + x] > 0.5) places.push(y * luma.width + x);
  const step = Math.max(1, places.length / most);
  const n = Math.floor(places.length / step);
  const t: Template = {
    size: n,
    x: new Float32Array(n),
    y: new Float32Array(n),
    v: new Float32Array(n),
    gx: new Float32Array(n),
    gy: new Float32Array(n),
  };
  for (let k = 0; k < n; k++) {
    const i = places[Math.floor(k * step)];
    t.x[k] = (i % luma.width) + 0.5 - middle[0];
    t.y[k] = Math.floor(i / luma.width) + 0.5 - middle[1];
    t.v[k] = luma.data[i];
    t.gx[k] = (luma.data[i + 1] - luma.data[i - 1]) / 2;
    t.gy[k] = (luma.data[i + luma.width] - luma.data[i - luma.width]) / 2;
  }
  return t;
}

export const NONE = Number.NaN;

/** Bilinear value of a plane; not a number beyond it. */
function at({ width, height, data }: Plane, x: number, y: number): number {
  const [sx, sy] = [x - 0.5, y - 0.5];
  const [u, v] = [Math.floor(sx), Math.floor(sy)];
  if (u < 0 || v < 0 || u + 1 >= width || v + 1 >= height) return NONE;
  const [fx, fy] = [sx - u, sy - v];
  const i = v * width + u;
  return (
    (data[i] * (1 - fx) + data[i + 1] * fx) * (1 - fy) + (data[i + width] * (1 - fx) + data[i + width + 1] * fx) * fy
  );
}

/** Normalised correlation of the piece in a pose with the picture; places that are ignored or beyond it do not count. */
export function correlate(t: Template, scene: Plane, c: Candidate): number {
  const r = (c.turn * Math.PI) / 180;
  const [cos, sin] = [Math.cos(r) * c.scale, Math.sin(r) * c.scale];
  let [n, sa, sb, saa, sbb, sab] = [0, 0, 0, 0, 0, 0];
  for (let k = 0; k < t.size; k++) {
    const px = c.flip ? -t.x[k] : t.x[k];
    const b = at(scene, c.x + cos * px - sin * t.y[k], c.y + sin * px + cos * t.y[k]);
    if (b !== b) continue;
    const a = t.v[k];
    n++;
    sa += a;
    sb += b;
    saa += a * a;
    sbb += b * b;
    sab += a * b;
  }
  if (n < 0.35 * t.size) return -1;
  const va = saa - (sa * sa) / n;
  const vb = sbb - (sb * sb) / n;
  return va > 1e-6 * n && vb > 1e-6 * n ? (sab - (sa * sb) / n) / Math.sqrt(va * vb) : -1;
}

/**
 * Gauss–Newton on shift, turn, scale, contrast and brightness together: the piece is compared with the picture at its places, and
 * the picture's slope there says how the pose has to change.
 */
export function refine(t: Template, scene: Plane, start: Candidate, rounds: number): Candidate {
  let c = { ...start };
  for (let round = 0; round < rounds; round++) {
    const r = (c.turn * Math.PI) / 180;
    const [cos, sin] = [Math.cos(r) * c.scale, Math.sin(r) * c.scale];
    // Unknowns: x, y, turn (radians), scale (natural logarithm), gain, offset.
    const m = new Float64Array(36);
    const rhs = new Float64Array(6);
    const j = new Float64Array(6);
    let n = 0;
    for (let k = 0; k < t.size; k++) {
      const px = c.flip ? -t.x[k] : t.x[k];
      const ox = cos * px - sin * t.y[k];
      const oy = sin * px + cos * t.y[k];
      const [x, y] = [c.x + ox, c.y + oy];
      const b = at(scene, x, y);
      const gx = at(scene, x + 0.5, y) - at(scene, x - 0.5, y);
      const gy = at(scene, x, y + 0.5) - at(scene, x, y - 0.5);
      if (!(b === b && gx === gx && gy === gy)) continue;
      n++;
      j[0] = gx;
      j[1] = gy;
      j[2] = -gx * oy + gy * ox;
      j[3] = gx * ox + gy * oy;
      j[4] = -t.v[k];
      j[5] = -1;
      for (let p = 0; p < 6; p++) {
        rhs[p] -= j[p] * b;
        for (let q = 0; q <= p; q++) m[p * 6 + q] += j[p] * j[q];
      }
    }
    if (n < 0.3 * t.size) break;
    const d = solveSymmetric(m, rhs, 6);
    if (!d) break;
    const limit = (v: number, most: number) => Math.min(most, Math.max(-most, v));
    const next: Candidate = {
      ...c,
      x: c.x + limit(d[0], 2),
      y: c.y + limit(d[1], 2),
      turn: c.turn + limit((d[2] * 180) / Math.PI, 5),
      scale: c.scale * Math.exp(limit(d[3], 0.1)),
    };
    next.agreement = correlate(t, scene, next);
    if (next.agreement < c.agreement - 1e-4) break;
    const still = Math.abs(d[0]) + Math.abs(d[1]) < 0.003 && Math.abs(d[2]) < 2e-5 && Math.abs(d[3]) < 2e-5;
    c = next;
    if (still) break;
  }
  return c;
}

export function thinned(t: Template, most: number): Template {
  if (t.size <= most) return t;
  const pick = (list: Float32Array) =>
    Float32Array.from({ length: most }, (_, k) => list[Math.floor((k * t.size) / most)]);
  return { size: most, x: pick(t.x), y: pick(t.y), v: pick(t.v), gx: pick(t.gx), gy: pick(t.gy) };
}
