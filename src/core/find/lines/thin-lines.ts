import type { Point } from '../../mask/shapes.ts';
import { simplified } from '../../mask/outline.ts';
import { CURVE_FEATURES, curveMeter, type CurveFeatures, type CurveSamples } from './line-features.ts';
import { logitOf, readForest } from '../scoring/forest.ts';
import lines from '../scoring/forests/curves.json' with { type: 'json' };
import { doubtOfRare } from '../scoring/prevalence.ts';
import { textureDoubt } from '../scoring/texture-doubt.ts';
import { periodicityOf } from './periodicity.ts';
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
import { strandOutline } from '../strand/strand.ts';

/** Blurs under which thin lines are looked for: widths of about 1 to 3 and 3 to 6 px. */
const SIGMAS = [1, 2];
/** px below which a line is none. */
const SHORTEST = 22;
/**
 * Tells hairs, scratches and wires from lines of the picture; fitted by `bench/train-curves.ts`. Its bias is the share of
 * them it was fitted on.
 */
export const CURVE_FOREST = readForest(lines);

/** The features as the forest takes them. */
export const curveVector = (f: CurveFeatures): Float32Array => Float32Array.from(CURVE_FEATURES, (k) => f[k]);

/** How sure it is that a thin line is a hair, a scratch or a wire and no line of the picture. */
export function curveScore(f: CurveFeatures, forest = CURVE_FOREST): number {
  return sigmoid(logitOf(forest, curveVector(f)));
}

/** A piece of a thin line, from one of its points to before another. */
export interface CurvePiece {
  from: number;
  to: number;
  features: CurveFeatures;
}

/** Least px between the places where a line may be cut, and most pieces that it is cut into. */
const CUT = 12;
const PIECES = 20;
/** Score from which a px of line is rather taken than left, and px of a certain find that each piece after the first must bring. */
const WORTH = 0.5;
const FURTHER = 20;

/** Places where a line of `points` may be cut, its ends among them. */
export function cutsOf(points: number): number[] {
  const pieces = Math.max(1, Math.min(PIECES, Math.floor(points / CUT)));
  return Array.from({ length: pieces + 1 }, (_, i) => Math.round((i * points) / pieces));
}

/**
 * The pieces of a line that are most likely hairs or scratches: a crest runs on from one into a line of the picture that
 * it meets, and as a whole is neither. Of all ways to cut it the one whose pieces are worth most by length and score, by
 * dynamic programming; as a whole where no piece is worth anything.
 */
export function likelyPieces({ points, measure }: CurveSamples, forest = CURVE_FOREST): CurvePiece[] {
  const n = points.length;
  const judged = new Map<number, Judged | null>();
  const judge = (from: number, to: number): Judged | null => {
    const key = from * (n + 1) + to;
    let known = judged.get(key);
    if (known === undefined) {
      const features = measure(from, to);
      known = features && { from, to, features, score: curveScore(features, forest) };
      judged.set(key, known);
    }
    return known;
  };
  const whole = judge(0, n);
  if (!whole) return [];
  const cuts = cutsOf(n);
  // Most lines are nothing, in no piece of them: few cuts tell that, and spare measuring at all.
  const few = cuts.filter((_, i) => i % COARSE === 0 || i === cuts.length - 1);
  const rough = bestCut(few, judge);
  if (rough.best < HOPELESS) return [whole];
  const { pieces } = few.length < cuts.length ? bestCut(cuts, judge) : rough;
  return pieces.length ? refined(pieces, judge, n) : [whole];
}

/** px by which the ends of a piece are moved at a time, after it was cut at coarser places. */
const MOVES = [8, 4];

/** Moves the ends of pieces for as long as that makes them worth more. */
function refined(pieces: readonly Judged[], judge: (from: number, to: number) => Judged | null, n: number): Judged[] {
  const out = pieces.slice();
  const worth = (p: Judged) => (p.to - p.from) * (p.score - WORTH);
  for (let i = 0; i < out.length; i++) {
    const [least, most] = [out[i - 1]?.to ?? 0, out[i + 1]?.from ?? n];
    for (const move of MOVES) {
      for (let better = true; better;) {
        better = false;
        const { from, to } = out[i];
        for (const [a, b] of [
          [from - move, to],
          [from + move, to],
          [from, to - move],
          [from, to + move],
        ]) {
          const [f, t] = [Math.max(least, a), Math.min(most, b)];
          if ((f === from && t === to) || t - f < SHORTEST) continue;
          const piece = judge(f, t);
          if (piece && worth(piece) > worth(out[i])) {
            out[i] = piece;
            better = true;
          }
        }
      }
    }
  }
  return out;
}

/** Every so many of the cuts are tried first, and the score of all pieces below which no others are tried. */
const COARSE = 3;
const HOPELESS = 0.05;

interface Judged extends CurvePiece {
  score: number;
}

/** The way to cut a line at some of the places that is worth most, and the score of the best piece there is. */
function bestCut(
  cuts: readonly number[],
  judge: (from: number, to: number) => Judged | null,
): { pieces: Judged[]; best: number } {
  const ways: Array<{ worth: number; piece: Judged | null; before: number }> = [{ worth: 0, piece: null, before: 0 }];
  let best = 0;
  let single: { worth: number; piece: Judged | null } = { worth: 0, piece: null };
  for (let b = 1; b < cuts.length; b++) {
    let top: (typeof ways)[number] = { worth: ways[b - 1].worth, piece: null, before: b - 1 };
    for (let a = 0; a < b; a++) {
      const length = cuts[b] - cuts[a];
      const piece = length >= SHORTEST ? judge(cuts[a], cuts[b]) : null;
      if (!piece) continue;
      best = Math.max(best, piece.score);
      const own = length * (piece.score - WORTH);
      if (own > single.worth) single = { worth: own, piece };
      const worth = ways[a].worth + own - FURTHER * (1 - WORTH);
      if (worth > top.worth) top = { worth, piece, before: a };
    }
    ways.push(top);
  }
  const pieces: Judged[] = [];
  for (let b = cuts.length - 1; b > 0; b = ways[b].before) if (ways[b].piece) pieces.push(ways[b].piece!);
  // The first piece costs nothing.
  if (!pieces.length && single.piece) pieces.push(single.piece);
  return { pieces: pieces.reverse(), best };
}

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

/** A piece of a thin line as a find, not yet scored. */
function findOf(line: Point[], m: CurveFeatures, width: number, height: number): Omit<Find, 'score'> {
  const points = simplified(line, 0.4);
  const outline = strandOutline({ points, widths: points.map(() => m.width) }, 0.2);
  const xs = outline.map((p) => p[0]);
  const ys = outline.map((p) => p[1]);
  const x0 = Math.max(0, Math.floor(Math.min(...xs)));
  const y0 = Math.max(0, Math.floor(Math.min(...ys)));
  return {
    kind: kindOf(m, Math.max(width, height)),
    shapes: [{ op: 'add', kind: 'strand', points, size: Math.max(1, m.width + 0.4) }],
    box: {
      x: x0,
      y: y0,
      width: Math.min(width, Math.ceil(Math.max(...xs))) - x0,
      height: Math.min(height, Math.ceil(Math.max(...ys))) - y0,
    },
    width: m.width,
    length: m.length,
    contrast: m.light ? m.contrast : -m.contrast,
  };
}

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
  // Wires hang in pictures without any damage.
  const wires = whole.filter((c) => c.find.kind === 'strand');
  const damage = whole
    .filter((c) => c.find.kind !== 'strand')
    .map(({ find, points, score }) => ({
      find,
      points,
      score: shiftLogit(score, doubt),
      light: find.contrast > 0,
      weight: curveWeight(find.length),
    }));
  const busy = textureDoubt(damage, plane);
  const finds = [
    ...wires.map(({ find, score }) => ({ ...find, score })),
    ...damage.map(({ find, score }, i) => ({ ...find, score: shiftLogit(score, busy[i]) })),
  ];
  return suppressClusters(finds, width, height, CURVE_AMONG).filter((f) => f.score > UNLIKELY);
}

interface ScoredCurve extends CurveCandidate {
  score: number;
}

/** px of a line that may be lost between two finds of it. */
const LOST = 64;

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
    return { points: line.points, features, find: findOf(line.points, features, width, height), score: line.strength };
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
