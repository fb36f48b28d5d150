import { alignEdge } from './align.ts';
import { strengthAlong } from './along.ts';
import type { Contour } from './contour.ts';
import { BAND, fitModel, sectorsAlong, type Beside, type Fitted, type Model } from './model.ts';
import { profileOf, type Profile } from './profile.ts';
import { leftAcross } from './left.ts';
import { moved, refineEdge, type Edge } from './refine.ts';
import { REACH, sumsOf, unwrap, type Known, type Sums, type Unwrapped } from './unwrapped.ts';

/** What is known of a stain. */
export interface Stain {
  /** its true edges */
  contours: Contour[];
  model: Model;
  /** one for each contour */
  profiles: Profile[];
  /** size of what it does over what is left unexplained; under 1 nothing is sure */
  certainty: number;
  /** how much is left of edges where it was taken off, levels */
  left: number;
  /** px that the edge lies from the outline as drawn, at most */
  moved: number;
  /** strength in each channel at so many px outwards from a sample of a contour; false where there is none */
  strengthAt(contour: number, sample: number, distance: number, out: Float32Array): boolean;
}

/** How the edge is looked for, one after the other: widely where it may lie, then closely. */
const SEARCHES = [
  { window: 30, reach: 24, gap: 10, deep: 26 },
  { window: 20, reach: 16, gap: 8, deep: 20 },
  { window: 12, reach: 10, gap: 6, deep: 16 },
  { window: 6, reach: 7, gap: 5, deep: BAND },
];
/** Share of the model's step that has to be seen within a window for the edge to be as sharp as that. */
const SHARP = 0.6;
/** px on both sides that an edge is taken to be wide before it is measured. */
const FIRST = { inner: 8, outer: 8 };
const ROUNDS = 3;
/** px by which an edge is moved at most between one round and the next. */
const ALIGNED = 7;
/** The same the first time where slopes are told: what led the search astray is seen through then. */
const ALIGNED_SLOPING = 16;

/** Certainty under which it is said that it is not sure; the best of several searches looks surer than it is. */
export const SURE = 1.35;
/** Certainty over which slopes beside the edge need not be thought of. */
const PLAIN = 4;
/** How many times as certain a stain has to be when slopes explain part of it. */
const MORE_UNKNOWNS = 1.4;

/** px inside over which what is peculiar to a place of the edge fades. */
const ALONG = 60;

/** A value between two of a closed list. */
function between(list: readonly number[], at: number): number {
  const i = Math.floor(at);
  const [a, b] = [list[(i + list.length) % list.length], list[(i + 1 + list.length) % list.length]];
  return a + (b - a) * (at - i);
}

/** Finds the edges near outlines as drawn; see {@link refineEdge}. Null where too little is known. */
function edgesNear(
  bands: readonly Unwrapped[],
  sums: readonly Sums[],
  drawn: readonly Contour[],
  from: number,
  sloping: boolean,
): Edge[] | null {
  let edges: Edge[] = drawn.map(({ count }) => ({ offsets: new Float64Array(count), share: 1, certainty: 0 }));
  for (const { window, reach, gap, deep } of SEARCHES.slice(from)) {
    const sectors = bands.flatMap((band, n) =>
      sectorsAlong(band, { inner: gap, outer: gap, deep, sloping }, edges[n].offsets),
    );
    const model = fitModel(sectors)?.model;
    if (!model) return null;
    const next = edges.map(({ offsets }, n) => refineEdge(sums[n], offsets, model, { window, reach, sloping }));
    if (edges[0].certainty > 0 && next.some((e) => e.share < SHARP)) break;
    edges = next;
  }
  return edges;
}

/** Whether a stain told from slopes is better than another: explaining more is not enough, less of its edge has to be left. */
const leavesLess = (a: Stain, b: Stain): boolean => a.left < b.left && a.certainty / a.left > b.certainty / b.left;

/** Finds the edges of a stain near its outlines and measures what it does. Null where too little around it is known. */
export function fitStain(known: Known, drawn: readonly Contour[]): Stain | null {
  const bands = drawn.map((contour) => unwrap(known, contour));
  const sums = bands.map(sumsOf);
  // An outline that is exact would be led astray by looking far; one that is not needs it. What explains most is right.
  let best: Stain | null = null;
  for (const sloping of [false, true]) {
    // Of grey alone a slope and a stain are told apart too seldom.
    const worthwhile = best && known.channels === 3 && best.certainty >= SURE && best.certainty <= PLAIN;
    if (sloping && !worthwhile) break;
    for (let from = 0; from < SEARCHES.length; from++) {
      const edges = edgesNear(bands, sums, drawn, from, sloping);
      const stain = edges && stainWithin(known, drawn, edges, sloping);
      if (!stain) continue;
      if (sloping) stain.certainty /= MORE_UNKNOWNS;
      if (!best || (sloping ? leavesLess(stain, best) : stain.certainty > best.certainty)) best = stain;
    }
  }
  return best;
}

/** Measures a stain whose edges are found. */
function stainWithin(known: Known, drawn: readonly Contour[], edges: readonly Edge[], sloping: boolean): Stain | null {
  let contours = drawn.map((contour, n) => moved(contour, edges[n].offsets));
  let bands = contours.map((contour) => unwrap(known, contour));
  let widths = bands.map((): Beside => ({ ...FIRST, sloping }));
  let fitted: Fitted | null = null;
  let profiles: Profile[] = [];
  for (let round = 0; round < ROUNDS; round++) {
    const sectors = bands.flatMap((band, n) => sectorsAlong(band, widths[n]));
    fitted = fitModel(sectors);
    if (!fitted) return null;
    const { model } = fitted;
    profiles = bands.map((band, n) => profileOf(band, model, widths[n]));
    widths = profiles.map(({ inner, outer }) => ({ inner, outer, sloping }));
    if (round < ROUNDS - 1) {
      const by = bands.map((band, n) =>
        alignEdge(band, model, profiles[n], { near: sloping && round === 0 ? ALIGNED_SLOPING : ALIGNED, sloping }),
      );
      contours = contours.map((contour, n) => moved(contour, by[n]));
      bands = contours.map((contour) => unwrap(known, contour));
    }
  }
  const { model } = fitted!;
  const strengths = bands.map((band, n) => strengthAlong(sectorsAlong(band, widths[n]), model));
  const strengthAt: Stain['strengthAt'] = (contour, sample, distance, out) => {
    const { strength, coloured, outer } = profiles[contour];
    if (distance > outer) return false;
    const at = Math.min(2 * REACH - 0.001, Math.max(0, distance + REACH));
    const k = Math.floor(at);
    const along = strengths[contour];
    const own = between(along, ((sample + 0.5) / contours[contour].count) * along.length - 0.5);
    const by = 1 + Math.exp(Math.min(0, distance) / ALONG) * (own - 1);
    const read = (list: Float32Array) => list[k] + (list[k + 1] - list[k]) * (at - k);
    const usual = read(strength);
    for (let c = 0; c < out.length; c++) out[c] = by * (usual + (coloured.length ? read(coloured[c]) : 0));
    return true;
  };
  return {
    contours,
    ...fitted!,
    left: leftAcross(bands, model, strengthAt),
    profiles,
    moved: Math.max(...edges.flatMap((e) => Array.from(e.offsets, Math.abs))),
    strengthAt,
  };
}
