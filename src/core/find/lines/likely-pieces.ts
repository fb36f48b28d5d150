import { logitOf, readForest } from '../scoring/forest.ts';
import lines from '../scoring/forests/curves.json' with { type: 'json' };
import { sigmoid } from '../find.ts';
import { CURVE_FEATURES, type CurveFeatures, type CurveSamples } from './line-features.ts';

/** px below which a line is none. */
export const SHORTEST = 22;

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
export const WORTH = 0.5;
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
