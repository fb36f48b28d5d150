/** px around a place in which nothing stands out more, and levels by which it does at least. */
const ALONE = 4;
const STANDS = 2;
/** Samples across a description, and px between them. */
const ACROSS = 11;
const EVERY = 1.5;
/** Waves along both sides of a description that are compared first. */
const SLOWEST = 4;
/**
 * The slowest waves of a description, which hold most of it and are compared first, hold so many times across and so many times down:
 * products of orthonormal discrete cosines.
 */
const WAVES = (() => {
  const out: Array<readonly [across: number, down: number]> = [];
  for (let f = 1; f <= SLOWEST; f++) for (let down = 0; down <= f; down++) out.push([f - down, down]);
  return out;
})();
const FIRST = WAVES.length;
/** Each of those cosines along one side. */
const COSINES = Array.from({ length: SLOWEST + 1 }, (_, f) =>
  Float64Array.from(
    { length: ACROSS },
    (_, x) => Math.sqrt((f ? 2 : 1) / ACROSS) * Math.cos((Math.PI * f * (2 * x + 1)) / (2 * ACROSS)),
  ),
);
/** 1 where a wave is the same mirrored across, −1 where it is the other way round. */
const MIRRORED = WAVES.map(([across]) => (across % 2 ? -1 : 1));
/** Where samples lie from a place: px down and across, and the part of a px beyond. */
const SAMPLES = Array.from({ length: ACROSS }, (_, k) => {
  const at = EVERY * (k - (ACROSS - 1) / 2);
  return { whole: Math.floor(at), part: at - Math.floor(at) };
});
/** How many of them are compared before the others. */
const SLOW = 5;
/** Correlation from which on descriptions are alike. */
const ALIKE = 0.88;
/** Places that are compared with one, at most. A place is most like itself. */
const MOST_ALIKE = 9;

/** What is around a place, of unit length around 0. */
interface Described {
  values: Float32Array;
  /** how much of each of the slowest waves is in it, and the length of all else: of all but the very slowest, of all but these */
  waves: Float32Array;
  rests: readonly [number, number];
}

export interface Spot {
  x: number;
  y: number;
  /** by how many levels it stands out */
  stands: number;
  /** lighter than what is around it, or darker */
  lighter: boolean;
  description: Described;
}

/** Brightness softened, and what stands out: between two softenings. */
interface Planes {
  width: number;
  height: number;
  soft: Float32Array;
  between: Float32Array;
}

/** Sum of products of two lists of one length, in four parts at once. */
function dot(a: Float32Array, b: Float32Array): number {
  let [p, q, r, s] = [0, 0, 0, 0];
  let k = 0;
  for (; k + 3 < a.length; k += 4) {
    p += a[k] * b[k];
    q += a[k + 1] * b[k + 1];
    r += a[k + 2] * b[k + 2];
    s += a[k + 3] * b[k + 3];
  }
  for (; k < a.length; k++) p += a[k] * b[k];
  return p + q + r + s;
}

/** Places that stand out from what is around them. */
export function spotsIn({ width, height, between, soft }: Planes, holds: (i: number) => boolean, most: number): Spot[] {
  const reach = Math.ceil((EVERY * (ACROSS - 1)) / 2) + 1;
  const found: Array<Omit<Spot, 'description'>> = [];
  for (let y = reach; y < height - reach; y++)
    for (let x = reach; x < width - reach; x++) {
      const i = y * width + x;
      const stands = Math.abs(between[i]);
      if (stands < STANDS) continue;
      // Nearly everywhere one of the px beside it tells already.
      let alone =
        Math.abs(between[i + 1]) <= stands &&
        Math.abs(between[i - 1]) <= stands &&
        Math.abs(between[i + width]) <= stands &&
        Math.abs(between[i - width]) <= stands &&
        holds(i);
      for (let v = -ALONE; v <= ALONE && alone; v++)
        for (let u = -ALONE; u <= ALONE && alone; u++) alone = Math.abs(between[i + v * width + u]) <= stands;
      if (alone) found.push({ x, y, stands, lighter: between[i] > 0 });
    }
  found.sort((a, b) => b.stands - a.stands);
  const out: Spot[] = [];
  for (const spot of found) {
    if (out.length === most) break;
    const { x, y } = spot;
    if (isCorner(soft, width, x, y)) out.push({ ...spot, description: describe(soft, width, x, y) });
  }
  return out;
}

/** px around a place that tell whether it is more than a line, and how much less it may vary one way than the other. */
const CORNER = 7;
const LINE = 0.03;
/** Of the rows and columns around it every so many are looked at. */
const CORNER_STEP = 2;

/** Whether a place varies in both directions: a line looks the same all along it. Source: Harris & Stephens 1988, from memory. */
function isCorner(soft: Float32Array, width: number, x: number, y: number): boolean {
  let [xx, yy, xy] = [0, 0, 0];
  for (let v = -CORNER; v <= CORNER; v += CORNER_STEP)
    for (let u = -CORNER; u <= CORNER; u += CORNER_STEP) {
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

/** Of the rows of a description, how much of each cosine is in them. */
const along = new Float64Array((SLOWEST + 1) * ACROSS);

/** What is around a place, evened to a mean of 0 and a length of 1. */
function describe(soft: Float32Array, width: number, x: number, y: number): Described {
  const out = new Float32Array(ACROSS * ACROSS);
  let mean = 0;
  for (let v = 0, k = 0; v < ACROSS; v++) {
    const fy = SAMPLES[v].part;
    const row = (y + SAMPLES[v].whole) * width + x;
    for (let u = 0; u < ACROSS; u++, k++) {
      const i = row + SAMPLES[u].whole;
      const fx = SAMPLES[u].part;
      const upper = soft[i] + (soft[i + 1] - soft[i]) * fx;
      const lower = soft[i + width] + (soft[i + width + 1] - soft[i + width]) * fx;
      mean += out[k] = upper + (lower - upper) * fy;
    }
  }
  mean /= out.length;
  let length = 0;
  for (let k = 0; k < out.length; k++) {
    out[k] -= mean;
    length += out[k] * out[k];
  }
  const scale = 1 / (Math.sqrt(length) || 1);
  for (let k = 0; k < out.length; k++) out[k] *= scale;
  let rest = 1;
  let faster = 1;
  const waves = new Float32Array(FIRST);
  for (let across = 0; across <= SLOWEST; across++) {
    const cosine = COSINES[across];
    for (let v = 0; v < ACROSS; v++) {
      let sum = 0;
      for (let u = 0, k = v * ACROSS; u < ACROSS; u++, k++) sum += cosine[u] * out[k];
      along[across * ACROSS + v] = sum;
    }
  }
  for (let f = 0; f < FIRST; f++) {
    const [across, down] = WAVES[f];
    const cosine = COSINES[down];
    let sum = 0;
    for (let v = 0, k = across * ACROSS; v < ACROSS; v++, k++) sum += cosine[v] * along[k];
    rest -= sum * sum;
    waves[f] = sum;
    if (f === SLOW - 1) faster = rest;
  }
  const lengthOf = (square: number) => Math.sqrt(Math.max(0, square));
  return { values: out, waves, rests: [lengthOf(faster), lengthOf(rest)] };
}

/** The description of a place as it would be mirrored across. */
export function mirroredOf({ values, waves, rests }: Described): Described {
  const out = new Float32Array(values.length);
  for (let v = 0, k = 0; v < ACROSS; v++)
    for (let u = 0; u < ACROSS; u++, k++) out[k] = values[v * ACROSS + ACROSS - 1 - u];
  return { values: out, waves: waves.map((w, f) => MIRRORED[f] * w), rests };
}

/** Places from the one that is lighter by the most to the one that is darker by the most, with their descriptions beside each other in memory. */
export interface Album {
  first: Float32Array;
  rests: Float32Array;
  spots: readonly Spot[];
  /** by how much each stands out, below 0 where it is darker */
  stands: Float32Array;
}

const signed = ({ stands, lighter }: Spot): number => (lighter ? stands : -stands);

export function albumOf(unsorted: readonly Spot[]): Album {
  const spots = unsorted.slice().sort((a, b) => signed(b) - signed(a));
  const first = new Float32Array(spots.length * FIRST);
  spots.forEach(({ description }, n) => first.set(description.waves, n * FIRST));
  const rests = Float32Array.from(spots.flatMap((s) => s.description.rests));
  return { first, rests, spots, stands: Float32Array.from(spots, signed) };
}

/** How many times as much a copy stands out as what it was taken from, at the most: tone is matched to what is around. */
const TIMES = 1.5;

/**
 * Places that stand out about as much and whose descriptions correlate enough, the most alike ones only: of a copy nothing is more alike
 * than what it was taken from. What all but their slowest waves can add is bounded (Cauchy–Schwarz).
 * @param described the place's own description, or that of it mirrored
 */
export function alikeIn({ first, rests, spots, stands }: Album, place: Spot, described: Described): Spot[] {
  const {
    values: a,
    waves,
    rests: [faster, rest],
  } = described;
  const own = signed(place);
  const [most, fewest] = own > 0 ? [own * TIMES, own / TIMES] : [own / TIMES, own * TIMES];
  let from = 0;
  for (let to = spots.length; from < to;) {
    const middle = (from + to) >> 1;
    if (stands[middle] > most) from = middle + 1;
    else to = middle;
  }
  const out: Array<{ n: number; r: number }> = [];
  let least = ALIKE;
  for (let n = from, at = from * FIRST; n < spots.length && stands[n] >= fewest; n++, at += FIRST) {
    let sum = 0;
    for (let k = 0; k < SLOW; k++) sum += waves[k] * first[at + k];
    if (sum + faster * rests[2 * n] < least) continue;
    for (let k = SLOW; k < FIRST; k++) sum += waves[k] * first[at + k];
    if (sum + rest * rests[2 * n + 1] < least) continue;
    sum = dot(a, spots[n].description.values);
    if (sum < least) continue;
    let rank = out.length;
    while (rank > 0 && out[rank - 1].r < sum) rank--;
    out.splice(rank, 0, { n, r: sum });
    if (out.length > MOST_ALIKE) out.pop();
    if (out.length === MOST_ALIKE) least = out[MOST_ALIKE - 1].r;
  }
  return out.map(({ n }) => spots[n]);
}
