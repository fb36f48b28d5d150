import type { Point } from '../../../mask/shapes.ts';
import { distanceTransform } from '../../../mask/distance.ts';
import type { Level } from '../layout/levels.ts';
import { followBorder, signedDistance, type Border, type Likeness } from './border.ts';
import { arcsOf, ringAround, spreadAlong, TONE_LANES, toneOfLevel, type Arc, type Ring } from './ring.ts';

/** Distance in px of the deciding level at which the ring runs around the cover. */
const RING_AT = 3;

/** The grounds around a cover and the borders that run on across it. */
export interface Division {
  /** tone of each ground, as {@link toneOfLevel} gives it */
  means: Float64Array[];
  borders: Border[];
  /** ground of a place, px of level 0 of the window */
  groundAt(x: number, y: number): number;
  /** px by which the borders seen outside stray from their smooth course, the worst of them */
  roughness: number;
  /** how strongly the borders bend inside, as the greatest slope against their frames */
  bend: number;
}

const contrastOf = (a: ArrayLike<number>, b: ArrayLike<number>, lanes = TONE_LANES) => {
  let sum = 0;
  for (let c = 0; c < lanes; c++) sum += (a[c] - b[c]) ** 2;
  return Math.sqrt(sum);
};

/** Likeness by colour along the axis from one mean to the other. */
function likenessOf(a: ArrayLike<number>, b: ArrayLike<number>): Likeness {
  const axis = [0, 1, 2].map((c) => b[c] - a[c]);
  const length = Math.max(
    1,
    axis.reduce((s, v) => s + v * v, 0),
  );
  return ({ pixels }, i) => {
    let sum = 0;
    for (let c = 0; c < 3; c++) sum += (pixels[4 * i + c] - a[c]) * axis[c];
    return Math.min(1, Math.max(0, sum / length));
  };
}

const steepest = (b: Border) => {
  let most = 0;
  for (let k = 0; k <= 8; k++) {
    const t = (k / 8) * (b.length / b.unit);
    const slope = b.course.slice(1).reduce((sum, c, n) => sum + c * (n + 1) * t ** n, 0);
    most = Math.max(most, Math.abs(slope));
  }
  return most;
};

/** What is around a cover. */
export interface Surroundings {
  /** stretches of different ground around the cover; 0 where all is of one */
  arcs: number;
  /** how far tone strays all around, in units of tone */
  spread: number;
  /** how the borders run on; null where none can be followed */
  division: Division | null;
}

/**
 * Tells the surroundings of a cover into grounds and finds how their borders run on inside.
 *
 * @param levels from the finest on, of one cover
 * @param at level to tell them apart at
 * @param size px of level 0 across the cover
 */
export function lookAround(levels: readonly Level[], at: number, size: number): Surroundings {
  const level = levels[at];
  const ring = ringAround(level, RING_AT);
  const tones = toneOfLevel(level);
  const arcs = arcsOf(tones, ring);
  const division = ring.closed ? divide(levels, at, size, ring, arcs) : null;
  return { arcs: arcs.length, spread: spreadAlong(tones, ring), division };
}

/** How the borders between arcs run on across the cover. */
function divide(levels: readonly Level[], at: number, size: number, ring: Ring, arcs: Arc[]): Division | null {
  const level = levels[at];
  const scale = 2 ** at;
  const place = (n: number): Point => {
    const i = ring.places[n % ring.places.length];
    return [((i % level.width) + 0.5) * scale, (Math.floor(i / level.width) + 0.5) * scale];
  };
  const middle = (arc: Arc) => place(Math.floor((arc.from + arc.to) / 2));
  /** A border through two cuts of the ring, its left side towards `left`. */
  const through = (from: number, to: number, left: Arc, right: Arc): Border | null => {
    const [enters, leaves] = [place(from), place(to)];
    const [mx, my] = middle(left);
    const aside = (mx - enters[0]) * (leaves[1] - enters[1]) - (my - enters[1]) * (leaves[0] - enters[0]);
    // Negative distances lie on the left of the direction, seen with y downwards.
    const frame = aside > 0 ? { enters, leaves } : { enters: leaves, leaves: enters };
    return followBorder(levels, at, frame, size, likenessOf(left.mean, right.mean), (RING_AT - 0.5) * scale);
  };
  const division = (means: Float64Array[], borders: Border[], groundAt: Division['groundAt']): Division => ({
    means,
    borders,
    groundAt,
    roughness: Math.max(...borders.map((b) => b.roughness)),
    bend: Math.max(...borders.map(steepest)),
  });

  if (arcs.length === 2) {
    const border = through(arcs[0].from, arcs[1].from, arcs[0], arcs[1]);
    if (!border) return null;
    return division([arcs[0].mean, arcs[1].mean], [border], (x, y) => (signedDistance(border, x, y) < 0 ? 0 : 1));
  }
  if (arcs.length === 4) {
    // Two of the four arcs belong together across the cover; each of the others is cut off by a border.
    let best: Division | null = null;
    for (const first of [0, 1]) {
      const [cutA, sideA, cutB, sideB] = [0, 1, 2, 3].map((k) => arcs[(first + k) % 4]);
      if (
        contrastOf(sideA.mean, sideB.mean) >
        0.6 * Math.min(contrastOf(cutA.mean, sideA.mean), contrastOf(cutB.mean, sideB.mean))
      )
        continue;
      const one = through(cutA.from, sideA.from, cutA, sideA);
      const two = through(cutB.from, sideB.from, cutB, sideB);
      if (!one || !two) continue;
      const between = sideA.mean.map((v, c) => (v + sideB.mean[c]) / 2);
      const found = division([cutA.mean, between, cutB.mean], [one, two], (x, y) =>
        signedDistance(one, x, y) < 0 ? 0 : signedDistance(two, x, y) < 0 ? 2 : 1,
      );
      if (!best || found.roughness + scale * found.bend < best.roughness + scale * best.bend) best = found;
    }
    return best;
  }
  return null;
}

/** Tone at which a place belongs to none of the grounds, and the px of the deciding level kept clear of their borders. */
const FOREIGN = 70;
const CLEAR = 1;
/** Within so many px of a border a layout may differ from a division. */
const NEAR = 2;
/** Within so many px of the cover, at the deciding level, a place belongs where the borders put it. */
const RIM = 8;

/** One ground's share of a window: what of the cover it fills and where it is known. All at level 0. */
export interface GroundMasks {
  cover: Uint8Array;
  known: Uint8Array;
  allowed: Uint8Array;
}

/** No ground: what is not known, lies between grounds or is of another kind. */
export const NO_GROUND = 255;

/** Ground of every known pixel of the deciding level, by tone; {@link NO_GROUND} beside another one. */
export function groundsOf({ means }: Division, coarse: Level): Uint8Array {
  const tones = toneOfLevel(coarse, 1);
  const kinds = new Uint8Array(coarse.width * coarse.height).fill(NO_GROUND);
  for (let i = 0; i < kinds.length; i++) {
    if (!coarse.known[i]) continue;
    let nearest = FOREIGN;
    means.forEach((mean, g) => {
      const d = contrastOf(tones.subarray(i * TONE_LANES, (i + 1) * TONE_LANES), mean);
      if (d < nearest) [nearest, kinds[i]] = [d, g];
    });
  }
  const clean = new Uint8Array(kinds.length).fill(NO_GROUND);
  for (let y = 0, i = 0; y < coarse.height; y++) {
    for (let x = 0; x < coarse.width; x++, i++) {
      const own = kinds[i];
      if (own === NO_GROUND) continue;
      let all = true;
      for (let v = Math.max(0, y - CLEAR); v <= Math.min(coarse.height - 1, y + CLEAR); v++)
        for (let u = Math.max(0, x - CLEAR); u <= Math.min(coarse.width - 1, x + CLEAR); u++) {
          const j = v * coarse.width + u;
          if (coarse.known[j] && kinds[j] !== own) all = false;
        }
      if (all) clean[i] = own;
    }
  }
  return clean;
}

/**
 * How far a layout puts pixels where a division has their ground, as a share of the covered pixels that lie clear of its borders
 * and are taken from a place whose ground is known.
 * @param donor pixel of the deciding level that a pixel is taken from
 */
export function agreement(division: Division, coarse: Level, at: number, donor: (pixel: number) => number): number {
  const grounds = groundsOf(division, coarse);
  const scale = 2 ** at;
  let [all, agree] = [0, 0];
  for (let i = 0; i < coarse.cover.length; i++) {
    if (!coarse.cover[i]) continue;
    const x = ((i % coarse.width) + 0.5) * scale;
    const y = (Math.floor(i / coarse.width) + 0.5) * scale;
    if (division.borders.some((b) => Math.abs(signedDistance(b, x, y)) < NEAR * scale)) continue;
    const g = grounds[donor(i)];
    if (g === NO_GROUND) continue;
    all++;
    if (g === division.groundAt(x, y)) agree++;
  }
  return all ? agree / all : 0;
}

/**
 * Divides a window among the grounds: each fills its part of the cover, and `overlap` px beyond its borders, from places of its
 * own kind.
 */
export function masksOf(division: Division, levels: readonly Level[], at: number, overlap: number): GroundMasks[] {
  const { means, borders, groundAt } = division;
  const fine = levels[0];
  const coarse = levels[at];
  const { width, height } = fine;
  const scale = 2 ** at;
  const clean = groundsOf(division, coarse);
  const toCover = distanceTransform(coarse.cover, coarse.width, coarse.height, 'inside');
  const masks = means.map(() => ({
    cover: new Uint8Array(width * height),
    known: new Uint8Array(width * height),
    allowed: new Uint8Array(width * height),
  }));
  const near = 4 * scale;
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      if (fine.cover[i]) {
        const g = groundAt(x + 0.5, y + 0.5);
        masks[g].cover[i] = 1;
        for (const b of borders) {
          if (Math.abs(signedDistance(b, x + 0.5, y + 0.5)) > overlap) continue;
          // Beside a border both its grounds are made.
          masks.forEach((m, k) => {
            if (k !== g && besides(division, b, k, x + 0.5, y + 0.5)) m.cover[i] = 1;
          });
        }
        continue;
      }
      if (!fine.known[i]) continue;
      const kind = clean[(y >> at) * coarse.width + (x >> at)];
      // Beside the cover the borders tell, farther off the tone.
      let beside = toCover[(y >> at) * coarse.width + (x >> at)] <= RIM;
      let clear = true;
      for (const b of borders) {
        if (!followedAt(b, x, y)) continue;
        const d = Math.abs(signedDistance(b, x + 0.5, y + 0.5));
        if (d > near) continue;
        beside = true;
        if (d < 1 + 2 * b.roughness) clear = false;
      }
      if (!clear) continue;
      const g = beside ? groundAt(x + 0.5, y + 0.5) : kind;
      if (g === NO_GROUND) continue;
      masks[g].known[i] = 1;
      if (g === kind || (beside && kind === NO_GROUND)) masks[g].allowed[i] = fine.allowed[i];
    }
  }
  return masks;
}

/** Whether ground `k` is what lies on the other side of a border at a place. */
function besides({ groundAt }: Division, b: Border, k: number, x: number, y: number): boolean {
  const d = signedDistance(b, x, y);
  const across = 2 * d + Math.sign(d);
  const normal: Point = [-b.along[1], b.along[0]];
  return groundAt(x - across * normal[0], y - across * normal[1]) === k;
}

function followedAt(b: Border, x: number, y: number): boolean {
  const u = (x - b.origin[0]) * b.along[0] + (y - b.origin[1]) * b.along[1];
  return u > -b.followed[0] && u < b.length + b.followed[1];
}
