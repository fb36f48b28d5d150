/** px around a place in which nothing stands out more, and levels by which it does at least. */
const ALONE = 4;
const STANDS = 2;
/** Samples across a description, and px between them. */
const ACROSS = 11;
const EVERY = 1.5;
/** The slowest waves of a description, which hold most of it and are compared first: orthonormal, by rows (discrete cosines). */
const WAVES = (() => {
  const wave = (f: number, x: number) =>
    Math.sqrt((f ? 2 : 1) / ACROSS) * Math.cos((Math.PI * f * (2 * x + 1)) / (2 * ACROSS));
  const out: Float32Array[] = [];
  for (let f = 1; f <= 3; f++)
    for (let down = 0; down <= f; down++)
      out.push(
        Float32Array.from(
          { length: ACROSS * ACROSS },
          (_, k) => wave(f - down, k % ACROSS) * wave(down, Math.floor(k / ACROSS)),
        ),
      );
  return out;
})();
const FIRST = WAVES.length;
/** Correlation from which on descriptions are alike. */
const ALIKE = 0.88;

/** What is around a place, of unit length around 0. */
interface Described {
  values: Float32Array;
  /** how much of each of the slowest waves is in it, and the length of all else */
  waves: Float32Array;
  rest: number;
}

export interface Spot {
  x: number;
  y: number;
  /** by how many levels it stands out */
  stands: number;
  /** as it is, and mirrored across */
  description: Described;
  mirrored?: Described;
}

/** Brightness softened, and what stands out: between two softenings. */
interface Planes {
  width: number;
  height: number;
  soft: Float32Array;
  between: Float32Array;
}

/** Places that stand out from what is around them. */
export function spotsIn({ width, height, between, soft }: Planes, holds: (i: number) => boolean, most: number): Spot[] {
  const reach = Math.ceil((EVERY * (ACROSS - 1)) / 2) + 1;
  const found: Array<{ x: number; y: number; stands: number }> = [];
  for (let y = reach; y < height - reach; y++)
    for (let x = reach; x < width - reach; x++) {
      const i = y * width + x;
      const stands = Math.abs(between[i]);
      if (stands < STANDS || !holds(i)) continue;
      let alone = true;
      for (let v = -ALONE; v <= ALONE && alone; v++)
        for (let u = -ALONE; u <= ALONE && alone; u++) alone = Math.abs(between[i + v * width + u]) <= stands;
      if (alone) found.push({ x, y, stands });
    }
  found.sort((a, b) => b.stands - a.stands);
  return found
    .filter(({ x, y }) => isCorner(soft, width, x, y))
    .slice(0, most)
    .map((spot) => ({ ...spot, description: describe(soft, width, spot.x, spot.y, 1) }));
}

/** px around a place that tell whether it is more than a line, and how much less it may vary one way than the other. */
const CORNER = 7;
const LINE = 0.03;

/** Whether a place varies in both directions: a line looks the same all along it. Source: Harris & Stephens 1988, from memory. */
function isCorner(soft: Float32Array, width: number, x: number, y: number): boolean {
  let [xx, yy, xy] = [0, 0, 0];
  for (let v = -CORNER; v <= CORNER; v++)
    for (let u = -CORNER; u <= CORNER; u++) {
      const i = (y + v) * width + x + u;
      const dx = soft[i + 1] - soft[i - 1];
      const dy = soft[i + width] - soft[i - width];
      xx += dx * dx;
      yy += dy * dy;
      xy += dx * dy;
    }
  const half = (xx + yy) / 2;
  const apart = Math.sqrt(((xx - yy) / 2) ** 2 + xy * xy);
  return half - apart > LINE * (half + apart);
}

/** What is around a place, evened to a mean of 0 and a length of 1. */
export function describe(soft: Float32Array, width: number, x: number, y: number, mirror: 1 | -1): Described {
  const out = new Float32Array(ACROSS * ACROSS);
  const half = (ACROSS - 1) / 2;
  let mean = 0;
  for (let v = 0, k = 0; v < ACROSS; v++)
    for (let u = 0; u < ACROSS; u++, k++) {
      const [px, py] = [x + mirror * EVERY * (u - half), y + EVERY * (v - half)];
      const i = Math.floor(py) * width + Math.floor(px);
      const [fx, fy] = [px - Math.floor(px), py - Math.floor(py)];
      const upper = soft[i] + (soft[i + 1] - soft[i]) * fx;
      const lower = soft[i + width] + (soft[i + width + 1] - soft[i + width]) * fx;
      out[k] = upper + (lower - upper) * fy;
      mean += out[k] / out.length;
    }
  let length = 0;
  for (let k = 0; k < out.length; k++) {
    out[k] -= mean;
    length += out[k] * out[k];
  }
  const scale = 1 / (Math.sqrt(length) || 1);
  for (let k = 0; k < out.length; k++) out[k] *= scale;
  let rest = 1;
  const waves = Float32Array.from(WAVES, (wave) => {
    let sum = 0;
    for (let k = 0; k < out.length; k++) sum += wave[k] * out[k];
    rest -= sum * sum;
    return sum;
  });
  return { values: out, waves, rest: Math.sqrt(Math.max(0, rest)) };
}

/** Descriptions of places, as they lie beside each other in memory. */
export interface Album {
  first: Float32Array;
  rests: Float32Array;
  spots: readonly Spot[];
}

export function albumOf(spots: readonly Spot[]): Album {
  const first = new Float32Array(spots.length * FIRST);
  spots.forEach(({ description }, n) => first.set(description.waves, n * FIRST));
  return { first, rests: Float32Array.from(spots, (s) => s.description.rest), spots };
}

/** Numbers of the places whose descriptions correlate enough. What all but their slowest waves can add is bounded (Cauchy–Schwarz). */
export function alikeIn({ first, rests, spots }: Album, { values: a, waves, rest }: Described): number[] {
  const out: number[] = [];
  for (let n = 0, at = 0; n < rests.length; n++, at += FIRST) {
    let sum = 0;
    for (let k = 0; k < FIRST; k++) sum += waves[k] * first[at + k];
    if (sum + rest * rests[n] < ALIKE) continue;
    const b = spots[n].description.values;
    sum = 0;
    for (let k = 0; k < a.length; k++) sum += a[k] * b[k];
    if (sum >= ALIKE) out.push(n);
  }
  return out;
}
