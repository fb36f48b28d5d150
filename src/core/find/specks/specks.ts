import type { Point } from '../../mask/shapes.ts';
import { speckCandidates, type SpeckCandidate } from './speck-candidates.ts';
import { SPECK_FEATURES, type SpeckFeatures } from './speck-features.ts';
import { logitOf, readForest } from '../scoring/forest.ts';
import { NEIGHBOUR_FEATURES, neighbourFeatures, type NeighbourFeatures } from './neighbour-features.ts';
import { doubtOfRare } from '../scoring/prevalence.ts';
import { quantile } from '../../raster/luma.ts';
import { textureDoubt } from '../scoring/texture-doubt.ts';
import lines from '../scoring/forests/specks.json' with { type: 'json' };
import { suppressClusters, shiftLogit, sigmoid, type Find, type Finder, type FindInput } from '../find.ts';

/** Tells specks from detail; fitted by `bench/train-specks.ts`. Its bias is the share of specks it was fitted on. */
export const SPECK_FOREST = readForest(lines);
/** Added to every logit: how much a missed speck counts against a false one. */
const LEAN = 1;
/** How many times as dense as is usual specks may lie: their likes around them have been weighed already. */
const SPECK_DENSE = 8;

/** Score from which on a speck is sure, and how many of these make a picture a dusty one; clean ones show up to two. */
const SURE = 0.9;
const DUSTY = 10;
/** What a dusty picture adds to the logits of what else may be dust, and of what stands out on even ground. */
const MORE = 0.6;
const PLAIN = 3.4;
/** Even ground varies by so many times its grain at most; what stands out there by so much, with nothing like it around, is no detail. */
const EVEN = 1.6;
const CLEAR = 4;
const ALONE = 0.3;
/** Its likes further around: more are no dust. */
const FEW = 5;
/** px across up to which it is dust. */
const DUST = 14;

/**
 * What a dusty picture adds to the logits of its candidates, one each: where dozens of specks are sure, more lie between them, and on ground
 * that is even nothing else is as small and as clear. What has its like around it gets nothing, nor does a picture with hardly any sure
 * one.
 * Source: own.
 */
export function dustiness(
  candidates: ReadonlyArray<
    Pick<SpeckFeatures, 'size' | 'busyFar' | 'grainFar' | 'clear' | 'rivals'> & Pick<NeighbourFeatures, 'strongerFar'>
  >,
  scores: readonly number[],
): number[] {
  if (scores.filter((s) => s >= SURE).length < DUSTY) return scores.map(() => 0);
  return candidates.map((f) => {
    if (f.size > DUST || f.rivals > ALONE || f.strongerFar > FEW) return 0;
    return f.busyFar <= EVEN * f.grainFar && f.clear >= CLEAR ? PLAIN : MORE;
  });
}

/** Sure specks that tell how large those of a picture are, the share of them that is smaller, times that, and logits for what is larger. */
const TELLING = 30;
const NEARLY_ALL = 0.95;
const LARGER = 1.3;
const OUTSIZED = -4;

/**
 * What is added to the logit of each find for its size: where dozens of specks are sure, one that is much larger than all of them is a
 * thing, a knob or a stone, however round and clear it is.
 * @param finds `width` in px, `score` 0 to 1
 * Source: own.
 */
export function outsized(finds: ReadonlyArray<Pick<Find, 'width' | 'score'>>): number[] {
  const sure = finds.filter((f) => f.score >= SURE).map((f) => f.width);
  if (sure.length < TELLING) return finds.map(() => 0);
  const most = LARGER * Math.max(DUST, quantile(sure, NEARLY_ALL));
  return finds.map((f) => (f.width > most ? OUTSIZED : 0));
}

/** What was measured on a candidate, as forests take it. */
export const speckVector = (f: SpeckFeatures): Float32Array => Float32Array.from(SPECK_FEATURES, (k) => f[k]);

/** How many of its like lie around each candidate. */
function likesOf(candidates: readonly SpeckCandidate[], { width, height }: { width: number; height: number }) {
  const places = candidates.map(({ find: { box, width: size, contrast } }) => ({
    x: box.x + box.width / 2,
    y: box.y + box.height / 2,
    size,
    contrast,
  }));
  return neighbourFeatures(places, width, height);
}

/** What was measured on all candidates of a picture, with how many of its like lie around each. */
export const speckVectors = (
  candidates: readonly SpeckCandidate[],
  picture: { width: number; height: number },
  likes = likesOf(candidates, picture),
): Float32Array[] =>
  candidates.map(({ features }, i) =>
    Float32Array.from([...speckVector(features), ...NEIGHBOUR_FEATURES.map((k) => likes[i][k])]),
  );

/** Scores of candidates from their logits and the doubt of their picture; those that crowd together are doubted. */
export function scoredSpecks<F extends Pick<Find, 'box' | 'length'>>(
  finds: readonly F[],
  logits: ArrayLike<number>,
  doubt: number,
  { width, height }: { width: number; height: number },
): Array<F & { score: number }> {
  const scored = finds.map((find, i) => ({ ...find, score: sigmoid(logits[i] + doubt + LEAN) }));
  return suppressClusters(scored, width, height, { dense: SPECK_DENSE });
}

/**
 * Everything in a picture that may be a speck.
 * @returns what a picture with so few specks adds to each logit, see {@link doubtOfRare}, and the finds, scored with that
 * or with the doubt of another picture
 */
export function weighedSpecks(input: FindInput, onProgress?: (done: number) => void) {
  const candidates = speckCandidates(input, onProgress);
  const likes = likesOf(candidates, input.picture);
  const logits = speckVectors(candidates, input.picture, likes).map((x) => logitOf(SPECK_FOREST, x));
  const finds = candidates.map((c) => c.find);
  const doubt = doubtOfRare(logits, sigmoid(SPECK_FOREST.bias));
  const { width, height } = input.picture;
  const places = finds.map(({ box, contrast }, i) => ({
    points: [[box.x + box.width / 2, box.y + box.height / 2] as Point],
    light: contrast > 0,
    score: sigmoid(logits[i] + doubt),
  }));
  const busy = textureDoubt(places, { width, height, data: input.luma });
  const judged = (by = doubt): Find[] => {
    const scored = scoredSpecks(finds, logits, by, input.picture).map((f, i) => ({
      ...f,
      score: shiftLogit(f.score, busy[i]),
    }));
    const more = dustiness(
      candidates.map(({ features }, i) => ({ ...features, strongerFar: likes[i].strongerFar })),
      scored.map((f) => f.score),
    );
    const size = outsized(scored);
    return scored.map((f, i) => ({ ...f, score: shiftLogit(f.score, more[i] + size[i]) }));
  };
  return { doubt, finds: judged };
}

/**
 * Finds specks: dust, pinholes, sensor marks and drops, lighter or darker than their ground, 1 to 60 px. A place is
 * taken up when it stands out from every part of a ring around it, at one of eight sizes; detail of the picture is told
 * from it by a forest of trees over contrast, shape, edge, evenness, colour, what goes on around and how many of its
 * like there are, by how many specks the picture has, and by whether they lie on its busy ground alone.
 * Source: own (`bench/train-specks.ts`); centre–surround comparison at several scales is common practice.
 */
export const specks: Finder = {
  find: (input, onProgress) =>
    weighedSpecks(input, onProgress)
      .finds()
      .filter((f) => f.score > 0.08),
};
