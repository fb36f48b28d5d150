/** What is compared with others of its kind. */
export interface Place {
  x: number;
  y: number;
  /** px across */
  size: number;
  /** levels; above 0 lighter than its ground */
  contrast: number;
}

/** How many others lie around something: detail of a picture seldom comes alone, dust does. */
export const NEIGHBOUR_FEATURES = [
  /** about as large and as strong, the same way; near and further around */
  'alike',
  'alikeFar',
  /** about as large and at least as strong, the same way */
  'stronger',
  'strongerFar',
  /** about as large and strong, the other way; further around */
  'opposite',
] as const;

export type NeighbourFeatures = Record<(typeof NEIGHBOUR_FEATURES)[number], number>;

/** Side of the cells in which places are looked up, px. */
const CELL = 64;
/** What is near, and what is further around: px, or times the size of what is compared. */
const NEAR = { least: 64, sizes: 5 };
const FAR = { least: 192, sizes: 16, most: 512 };
/** Sizes, and contrasts, are alike within this ratio. */
const ALIKE = 1.5;
/** From this share of its contrast on another is as strong. */
const STRONG = 0.8;

/**
 * Counts the others around each place.
 * Source: own; that blossoms, mortar and glints come in numbers and dust by itself is common practice.
 */
export function neighbourFeatures(places: readonly Place[], width: number, height: number): NeighbourFeatures[] {
  const w = Math.max(1, Math.ceil(width / CELL));
  const h = Math.max(1, Math.ceil(height / CELL));
  const column = (x: number) => Math.min(w - 1, Math.max(0, Math.floor(x / CELL)));
  const row = (y: number) => Math.min(h - 1, Math.max(0, Math.floor(y / CELL)));
  // Places in the order of their cells, each value in an array of its own: there may be a hundred thousand.
  const starts = new Int32Array(w * h + 1);
  for (const p of places) starts[row(p.y) * w + column(p.x) + 1]++;
  for (let c = 0; c < w * h; c++) starts[c + 1] += starts[c];
  const next = starts.slice();
  const [xs, ys, sizes, contrasts] = Array.from({ length: 4 }, () => new Float32Array(places.length));
  const owner = new Int32Array(places.length);
  places.forEach((p, i) => {
    const k = next[row(p.y) * w + column(p.x)]++;
    owner[k] = i;
    xs[k] = p.x;
    ys[k] = p.y;
    sizes[k] = p.size;
    contrasts[k] = p.contrast;
  });
  const out = new Array<NeighbourFeatures>(places.length);
  for (let k = 0; k < places.length; k++) {
    const [x, y, size, contrast] = [xs[k], ys[k], sizes[k], contrasts[k]];
    const near = Math.max(NEAR.least, NEAR.sizes * size) ** 2;
    const reach = Math.min(FAR.most, Math.max(FAR.least, FAR.sizes * size));
    const far = reach ** 2;
    const found: NeighbourFeatures = { alike: 0, alikeFar: 0, stronger: 0, strongerFar: 0, opposite: 0 };
    for (let v = row(y - reach); v <= row(y + reach); v++) {
      // The cells of a row lie one after the other.
      const last = starts[v * w + column(x + reach) + 1];
      for (let j = starts[v * w + column(x - reach)]; j < last; j++) {
        const ratio = sizes[j] / size;
        if (ratio > ALIKE || ratio * ALIKE < 1 || j === k) continue;
        const distance = (xs[j] - x) ** 2 + (ys[j] - y) ** 2;
        if (distance > far) continue;
        const share = contrasts[j] / contrast;
        const close = distance < near;
        if (share * ALIKE < -1) found.opposite++;
        if (share > STRONG) {
          found.strongerFar++;
          if (close) found.stronger++;
        }
        if (share * ALIKE > 1 && share < ALIKE) {
          found.alikeFar++;
          if (close) found.alike++;
        }
      }
    }
    out[owner[k]] = found;
  }
  return out;
}
