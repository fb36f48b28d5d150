import { halfPlane, type Plane } from '../raster/luma.ts';

interface Held {
  delete(): void;
}
interface Mat extends Held {
  data: Uint8Array;
  data64F: Float64Array;
  empty(): boolean;
}
interface List<T> extends Held {
  size(): number;
  get(n: number): T;
}
interface KeyPoint {
  pt: { x: number; y: number };
  response: number;
}
interface Paired {
  queryIdx: number;
  trainIdx: number;
  distance: number;
}

/** What is used of opencv-js: it is handed in, so that the core needs nothing that has to be loaded. */
export interface OpenCv {
  Mat: new (rows?: number, columns?: number, type?: number) => Mat;
  ORB: new (most: number) => Held & {
    detectAndCompute(image: Mat, mask: Mat, places: List<KeyPoint>, descriptors: Mat): void;
  };
  BFMatcher: new (
    norm: number,
    crossed: boolean,
  ) => Held & {
    knnMatch(from: Mat, to: Mat, found: List<List<Paired>>, most: number): void;
  };
  KeyPointVector: new () => List<KeyPoint>;
  DMatchVectorVector: new () => List<List<Paired>>;
  matFromArray(rows: number, columns: number, type: number, values: readonly number[]): Mat;
  findHomography(from: Mat, to: Mat, method: number, within: number, agree: Mat): Mat;
  CV_8UC1: number;
  CV_32FC2: number;
  NORM_HAMMING: number;
  RANSAC: number;
}

/** Two places that show the same, px of both frames. */
export interface Match {
  a: [number, number];
  b: [number, number];
}

/** What frames have in common. */
export interface Pair {
  from: number;
  to: number;
  matches: Match[];
  /** takes px of `from` to px of `to`, by rows; up to a factor */
  homography: number[];
}

/** Longer side in px at which places are looked for, and how many. */
const LOOKED_AT = 1400;
const MOST = 9000;
/** Cells along a side of a frame, and places that are kept in each: those of a rich part must not crowd out all others. */
const CELLS = 12;
const A_CELL = 28;
/** A match has to be so much better than the next best one (Lowe 2004), and to agree with the others within so many px. */
const BETTER = 0.78;
const WITHIN = 3;
/** Frames belong together where more matches agree than chance would have it (Brown & Lowe 2007, their constants). */
const BY_CHANCE = { at: 8, share: 0.3 };
/** Matches that are kept of a pair, at most. */
const KEPT = 400;

interface Described {
  x: Float64Array;
  y: Float64Array;
  descriptors: Mat;
}

function describe(cv: OpenCv, luma: Plane): Described {
  let plane = luma;
  let by = 1;
  while (Math.max(plane.width, plane.height) > LOOKED_AT) {
    plane = halfPlane(plane);
    by *= 2;
  }
  const grey = new cv.Mat(plane.height, plane.width, cv.CV_8UC1);
  grey.data.set(Uint8Array.from(plane.data, (v) => Math.round(v)));
  const orb = new cv.ORB(MOST);
  const places = new cv.KeyPointVector();
  const found = new cv.Mat();
  const none = new cv.Mat();
  orb.detectAndCompute(grey, none, places, found);
  const all = Array.from({ length: places.size() }, (_, n) => {
    const { pt, response } = places.get(n);
    return { n, x: pt.x, y: pt.y, response };
  });
  const counts = new Map<number, number>();
  const kept = all
    .sort((a, b) => b.response - a.response)
    .filter(({ x, y }) => {
      const cell = Math.floor((CELLS * y) / plane.height) * CELLS + Math.floor((CELLS * x) / plane.width);
      counts.set(cell, (counts.get(cell) ?? 0) + 1);
      return counts.get(cell)! <= A_CELL;
    });
  const descriptors = new cv.Mat(Math.max(1, kept.length), 32, cv.CV_8UC1);
  kept.forEach(({ n }, k) => descriptors.data.set(found.data.subarray(32 * n, 32 * n + 32), 32 * k));
  // A pixel of a halved plane stands for 2 × 2: centres move by half a px.
  const x = Float64Array.from(kept, (p) => (p.x + 0.5) * by - 0.5);
  const y = Float64Array.from(kept, (p) => (p.y + 0.5) * by - 0.5);
  for (const mat of [grey, none, places, orb, found]) mat.delete();
  return { x, y, descriptors };
}

function pairOf(cv: OpenCv, a: Described, b: Described, from: number, to: number, within: number): Pair | null {
  if (a.x.length < 8 || b.x.length < 8) return null;
  const matcher = new cv.BFMatcher(cv.NORM_HAMMING, false);
  const found = new cv.DMatchVectorVector();
  matcher.knnMatch(a.descriptors, b.descriptors, found, 2);
  const matches: Match[] = [];
  for (let n = 0; n < found.size(); n++) {
    const two = found.get(n);
    if (two.size() > 1) {
      const [best, next] = [two.get(0), two.get(1)];
      if (best.distance < BETTER * next.distance)
        matches.push({ a: [a.x[best.queryIdx], a.y[best.queryIdx]], b: [b.x[best.trainIdx], b.y[best.trainIdx]] });
    }
    two.delete();
  }
  for (const mat of [matcher, found]) mat.delete();
  if (matches.length < 8) return null;
  const points = (of: 'a' | 'b') =>
    cv.matFromArray(
      matches.length,
      1,
      cv.CV_32FC2,
      matches.flatMap((m) => m[of]),
    );
  const [source, target, mask] = [points('a'), points('b'), new cv.Mat()];
  const h = cv.findHomography(source, target, cv.RANSAC, within, mask);
  const homography = h.empty() ? null : Array.from(h.data64F);
  const agree = matches.filter((_, n) => mask.data[n]);
  for (const mat of [source, target, mask, h]) mat.delete();
  if (!homography || agree.length <= BY_CHANCE.at + BY_CHANCE.share * matches.length) return null;
  return { from, to, matches: spreadOut(agree), homography };
}

/** Takes no more matches than are needed, evenly over the frame: one of a cell after the other. */
function spreadOut(matches: Match[]): Match[] {
  if (matches.length <= KEPT) return matches;
  const [xs, ys] = [matches.map((m) => m.a[0]), matches.map((m) => m.a[1])];
  const [left, top] = [Math.min(...xs), Math.min(...ys)];
  const [wide, high] = [Math.max(...xs) - left + 1, Math.max(...ys) - top + 1];
  const cells = new Map<number, Match[]>();
  for (const m of matches) {
    const cell = 16 * Math.floor((16 * (m.a[1] - top)) / high) + Math.floor((16 * (m.a[0] - left)) / wide);
    cells.set(cell, [...(cells.get(cell) ?? []), m]);
  }
  const out: Match[] = [];
  for (let round = 0; out.length < KEPT; round++)
    for (const list of cells.values()) if (list[round] && out.length < KEPT) out.push(list[round]);
  return out;
}

/**
 * Finds out which frames show the same, and where: ORB features (Rublee et al. 2011), matched by ratio and a homography by RANSAC,
 * all of them from opencv-js.
 * @param lumas brightness of each frame, 0 to 255
 * @param onPair share that is done; throws to stop
 */
export function pairsOf(cv: OpenCv, lumas: readonly Plane[], onPair?: (done: number) => void): Pair[] {
  const described: Described[] = [];
  try {
    for (const luma of lumas) described.push(describe(cv, luma));
    const pairs: Pair[] = [];
    const all = (lumas.length * (lumas.length - 1)) / 2;
    let done = 0;
    for (let from = 0; from < lumas.length; from++)
      for (let to = from + 1; to < lumas.length; to++) {
        const within = (WITHIN * Math.max(lumas[from].width, lumas[from].height)) / LOOKED_AT;
        const pair = pairOf(cv, described[from], described[to], from, to, Math.max(WITHIN, within));
        if (pair) pairs.push(pair);
        onPair?.(++done / all);
      }
    return pairs;
  } finally {
    for (const { descriptors } of described) descriptors.delete();
  }
}
