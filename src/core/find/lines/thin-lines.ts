import { CURVE_FOREST, curveVector, likelyPieces, SHORTEST, WORTH, type CurvePiece } from './likely-pieces.ts';
import type { Point } from '../../mask/shapes.ts';
import { simplified } from '../../mask/outline.ts';
import { curveMeter, type CurveFeatures, type CurveSamples } from './line-features.ts';
import { logitOf } from '../scoring/forest.ts';
import { doubtOfRare } from '../scoring/prevalence.ts';
import { textureDoubt } from '../scoring/texture-doubt.ts';
import { periodicityOf } from './periodicity.ts';
import { followOn } from './follow-on.ts';
import { findRidges, joinRidges, type Ridge } from './ridges.ts';
import {
  suppressClusters,
  shiftLogit,
  sigmoid,
  type Find,
  type Finder,
  type FindInput,
  type FoundKind,
} from '../find.ts';
import type { Plane } from '../../raster/luma.ts';
import { isPrint, smallPicture } from '../finders/blobs.ts';
import { strandOutline } from '../strand/strand-cover.ts';

/** Blurs under which thin lines are looked for: widths of about 1 to 3 and 3 to 6 px. */
const SIGMAS = [1, 2];
/** Lines count by their length when they are compared with others. */
const CURVE_AMONG = { weigh: (f: Pick<Find, 'length'>) => Math.min(1.5, f.length / 100), least: 1 / 6 };

/** A thin line and what it may be. */
export interface CurveCandidate {
  find: Omit<Find, 'score'>;
  points: Point[];
  features: CurveFeatures;
}

function kindOf(m: CurveFeatures, longSide: number): FoundKind {
  const straight = m.bow < 0.03 && m.turning < 0.9;
  // Common practice: wires are long, dark more often than not, and sag; damage of prints is light more often than not.
  if (m.length > 0.28 * longSide && m.turning < 0.5 && !m.light) return 'strand';
  if (straight || (m.length > 0.2 * longSide && m.turning < 0.8)) return 'scratch';
  return 'hair';
}

/**
 * Every thin line of a picture that may be a hair, a scratch or a wire, with what was measured on it.
 * @param choose which pieces of a line count
 */
export function curveCandidates(
  input: FindInput,
  onProgress?: (done: number) => void,
  choose: (samples: CurveSamples) => CurvePiece[] = likelyPieces,
): CurveCandidate[] {
  const { width, height } = input.picture;
  const plane: Plane = { width, height, data: input.luma };
  const out: CurveCandidate[] = [];
  const owner = new Uint8Array(width * height);
  const cells = new Float32Array(Math.ceil(width / 32) * Math.ceil(height / 32));
  const cell = ([x, y]: Point) =>
    Math.min(
      cells.length - 1,
      Math.floor(Math.min(height - 1, y) / 32) * Math.ceil(width / 32) + Math.floor(Math.min(width - 1, x) / 32),
    );
  const sample = curveMeter(input.picture, plane, (place) => cells[cell(place)]);
  const all: Array<{ ridge: Ridge; sigma: number }> = [];
  SIGMAS.forEach((sigma, n) => {
    for (const ridge of joinRidges(findRidges(plane, { sigma, least: 8 }))) all.push({ ridge, sigma });
    onProgress?.((n + 1) / (SIGMAS.length + 1));
  });
  for (const { ridge, sigma } of all) if (sigma === SIGMAS[0]) for (const p of ridge.points) cells[cell(p)]++;
  all.sort((a, b) => b.ridge.strength * b.ridge.points.length - a.ridge.strength * a.ridge.points.length);
  for (const { ridge, sigma } of all) {
    if (ridge.points.length < SHORTEST) continue;
    let covered = 0;
    for (const [x, y] of ridge.points) if (owner[Math.floor(y) * width + Math.floor(x)]) covered++;
    if (covered > 0.5 * ridge.points.length) continue;
    const samples = sample(ridge, sigma);
    const pieces = choose(samples);
    if (!pieces.length) continue;
    const r = Math.ceil(Math.max(...pieces.map((p) => p.features.width)) / 2 + 1);
    for (const [x, y] of ridge.points) {
      for (let v = Math.max(0, Math.floor(y) - r); v <= Math.min(height - 1, Math.floor(y) + r); v++)
        owner.fill(1, v * width + Math.max(0, Math.floor(x) - r), v * width + Math.min(width, Math.floor(x) + r + 1));
    }
    for (const { from, to, features } of pieces) {
      const points = samples.points.slice(from, to);
      const find = findOf(points, features, width, height);
      out.push({ points, features, find });
    }
  }
  return out;
}

/** What covers a thin line. */
function coverOf(
  line: Point[],
  m: CurveFeatures,
  { width, height }: { width: number; height: number },
): Pick<Find, 'shapes' | 'box'> {
  const points = simplified(line, 0.4);
  const outline = strandOutline({ points, widths: points.map(() => m.width) }, 0.2);
  const xs = outline.map((p) => p[0]);
  const ys = outline.map((p) => p[1]);
  const x0 = Math.max(0, Math.floor(Math.min(...xs)));
  const y0 = Math.max(0, Math.floor(Math.min(...ys)));
  return {
    shapes: [{ op: 'add', kind: 'strand', points, size: Math.max(1, m.width + 0.4) }],
    box: {
      x: x0,
      y: y0,
      width: Math.min(width, Math.ceil(Math.max(...xs))) - x0,
      height: Math.min(height, Math.ceil(Math.max(...ys))) - y0,
    },
  };
}

/** A piece of a thin line as a find, not yet scored. */
function findOf(line: Point[], m: CurveFeatures, width: number, height: number): Omit<Find, 'score'> {
  return {
    kind: kindOf(m, Math.max(width, height)),
    ...coverOf(line, m, { width, height }),
    width: m.width,
    length: m.length,
    contrast: m.light ? m.contrast : -m.contrast,
  };
}

/** Score from which on a line is looked at beyond its ends. */
const LIKELY = 0.45;
/** Score up to which a line is not mentioned at any sensitivity. */
const UNLIKELY = 0.08;
/** Repeating beyond which a line is doubted, and by how much in the logit for what is beyond. */
const EVEN = 0.2;
const REPEATED = 12;
/** px of a line that count as one, and as how many the longest counts. */
const ONE = 80;
const LONGEST = 4;
/** How much a line of some length counts when a forest is fitted and when it is asked how frequent lines are. */
export const curveWeight = (length: number): number => Math.min(LONGEST, length / ONE);

/**
 * Candidates as finds, scored each for itself, by whether it comes again beside itself, by how many there are in the
 * picture (see {@link doubtOfRare}) and by how many there are around it; those that go on where another ends are joined.
 * @param lean what was added to the forest's bias after it was fitted
 */
export function scoredCurves(
  candidates: readonly CurveCandidate[],
  input: FindInput,
  forest = CURVE_FOREST,
  lean = 0,
): Find[] {
  const { width, height } = input.picture;
  const plane: Plane = { width, height, data: input.luma };
  const logits = candidates.map((c) => logitOf(forest, curveVector(c.features)));
  const scored = candidates.map((c, i): ScoredCurve => {
    const score = sigmoid(logits[i]);
    // Wires do hang in even steps.
    if (score < UNLIKELY || c.find.kind === 'strand') return { ...c, score };
    const repeat = periodicityOf(plane, c.points, c.features.width, c.features.light === 1);
    return { ...c, score: sigmoid(logits[i] - REPEATED * Math.max(0, repeat - EVEN)) };
  });
  const doubt = doubtOfRare(
    logits.map((v) => v - lean),
    sigmoid(forest.bias - lean),
    candidates.map((c) => curveWeight(c.find.length)),
  );
  const whole = joined(scored, input);
  const print = isPrint(smallPicture(input.picture, 240));
  // Wires hang in pictures without any damage.
  const wires = whole.filter((c) => c.find.kind === 'strand');
  const damage = whole
    .filter((c) => c.find.kind !== 'strand')
    .map(({ find, points, features, score }) => ({
      find,
      features,
      points,
      score: shiftLogit(score, doubt + (print ? starkness(find.contrast) : 0)),
      light: find.contrast > 0,
      weight: curveWeight(find.length),
    }));
  const busy = textureDoubt(damage, plane);
  const finds = [
    ...wires.map(({ find, score }) => ({ ...find, score })),
    ...damage.map(({ find, points, features, score }, i) => {
      const likely = shiftLogit(score, busy[i]);
      if (likely < LIKELY) return { ...find, score: likely };
      const whole = followOn(plane, points, features.width);
      return { ...find, ...(whole.length > points.length && coverOf(whole, features, input.picture)), score: likely };
    }),
  ];
  return suppressClusters(finds, width, height, CURVE_AMONG).filter((f) => f.score > UNLIKELY);
}

interface ScoredCurve extends CurveCandidate {
  score: number;
}

/** px of a line that may be lost between two finds of it. */
const LOST = 64;
/** How much each further piece on the same course counts in the logit, and how many of them do. */
const COURSE = 1.2;
/** Levels from which a line is plain, so that its pieces are no chance. */
const PLAIN = 30;
/** Levels from which a line of a print is stark, and by how much in the logit one is likelier that is twice as stark, and at most. */
const STARK = 70;
const STARKER = 1.6;
const STARKEST = 1.2;

/** How much likelier a line of a print is damage for standing out more than what the print shows does: paper is bare there. */
const starkness = (contrast: number): number =>
  Math.min(STARKEST, STARKER * Math.max(0, Math.log2(Math.max(1, contrast) / STARK)));
const MOST_PIECES = 3;

/** Finds that go on where another ends are one: what lies between them is part of it, even where it cannot be told. */
function joined(scored: ScoredCurve[], input: FindInput): ScoredCurve[] {
  const { width, height } = input.picture;
  const sample = curveMeter(input.picture, { width, height, data: input.luma });
  const sure = scored.filter((c) => c.score >= WORTH);
  const owner = new Map(sure.map((c) => [c.points[0], c]));
  const ridges = sure.map((c): Ridge => ({ points: c.points, light: c.features.light === 1, strength: c.score }));
  const whole = joinRidges(ridges, LOST).map((line): ScoredCurve => {
    const parts = line.points.flatMap((p) => owner.get(p) ?? []);
    if (parts.length === 1) return parts[0];
    const longest = parts.reduce((a, c) => (c.points.length > a.points.length ? c : a));
    const features = sample(line, longest.features.sigma).measure(0, line.points.length) ?? longest.features;
    // That several pieces lie on one course is no chance: each beyond the first makes the whole likelier.
    const counts = features.contrast >= PLAIN ? Math.min(MOST_PIECES, parts.length - 1) : 0;
    const score = shiftLogit(line.strength, COURSE * counts);
    return { points: line.points, features, find: findOf(line.points, features, width, height), score };
  });
  return [...whole, ...scored.filter((c) => c.score < WORTH)];
}

/**
 * Finds hairs, scratches and wires: thin lines that stand out from both their sides, in one even tone.
 * Source: crest lines after Steger 1998 (see `ridges.ts`); what tells damage from lines of the picture is a forest of own
 * measurement (`bench/train-curves.ts`).
 */
export const thinLines: Finder = {
  find: (input, onProgress) => scoredCurves(curveCandidates(input, onProgress), input),
};
