/** Hash of a lattice point to 0…1. */
export function hash(x: number, y: number, seed = 0): number {
  let h = Math.imul(x | 0, 374761393) ^ Math.imul(y | 0, 668265263) ^ Math.imul(seed | 0, 2147483647);
  h = Math.imul(h ^ (h >>> 13), 1274126177);
  h = Math.imul(h ^ (h >>> 16), 2246822519);
  return ((h ^ (h >>> 15)) >>> 0) / 4294967296;
}

/** Smooth value noise, 0…1. */
export function noise(x: number, y: number, seed = 0): number {
  const ix = Math.floor(x);
  const iy = Math.floor(y);
  const fx = x - ix;
  const fy = y - iy;
  const ux = fx * fx * (3 - 2 * fx);
  const uy = fy * fy * (3 - 2 * fy);
  const a = hash(ix, iy, seed);
  const b = hash(ix + 1, iy, seed);
  const c = hash(ix, iy + 1, seed);
  const d = hash(ix + 1, iy + 1, seed);
  return a + (b - a) * ux + (c - a) * uy + (a - b - c + d) * ux * uy;
}

/** Fractal noise: octaves of {@link noise}, 0…1, mean about 0.5. */
export function fbm(x: number, y: number, octaves: number, seed = 0, gain = 0.5): number {
  let sum = 0;
  let weight = 0;
  let amplitude = 1;
  for (let o = 0; o < octaves; o++) {
    sum += amplitude * noise(x, y, seed + o * 17);
    weight += amplitude;
    amplitude *= gain;
    x = x * 2.03 + 11.3;
    y = y * 2.01 + 5.7;
  }
  return sum / weight;
}

/** Distances to the nearest and second nearest of scattered points, and the nearest one's own random number. */
export function cells(x: number, y: number, seed = 0): { near: number; next: number; id: number } {
  const ix = Math.floor(x);
  const iy = Math.floor(y);
  let near = 9;
  let next = 9;
  let id = 0;
  for (let v = -1; v <= 1; v++) {
    for (let u = -1; u <= 1; u++) {
      const px = ix + u + 0.15 + 0.7 * hash(ix + u, iy + v, seed);
      const py = iy + v + 0.15 + 0.7 * hash(ix + u, iy + v, seed + 1);
      const d = Math.hypot(px - x, py - y);
      if (d < near) {
        next = near;
        near = d;
        id = hash(ix + u, iy + v, seed + 2);
      } else if (d < next) next = d;
    }
  }
  return { near, next, id };
}

export const clamp = (v: number, lo = 0, hi = 1): number => Math.min(hi, Math.max(lo, v));
export const mix = (a: number, b: number, t: number): number => a + (b - a) * t;
export const step = (lo: number, hi: number, v: number): number => {
  const t = clamp((v - lo) / (hi - lo));
  return t * t * (3 - 2 * t);
};
/** Normally distributed number from a pixel and a seed (Box–Muller). */
export const gauss = (x: number, y: number, seed: number): number =>
  Math.sqrt(-2 * Math.log(hash(x, y, seed) + 1e-9)) * Math.cos(2 * Math.PI * hash(x, y, seed + 1));
