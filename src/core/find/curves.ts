import type { Point } from '../mask/shapes.ts';
import { simplified } from '../mask/outline.ts';
import { CURVE_FEATURES, curveMeter, type CurveFeatures, type CurveSamples } from './curve-features.ts';
import { logitOf, readForest, type Forest } from './forest.ts';
import lines from './forests/curves.json' with { type: 'json' };
import { findRidges, joinRidges, type Ridge } from './ridges.ts';
import { amongOthers, sigmoid, type Find, type Finder, type FindInput, type FoundKind } from './find.ts';
import type { Plane } from './luma.ts';
import { strandOutline } from './strand.ts';

/** Blurs under which thin lines are looked for: widths of about 1 to 3 and 3 to 6 px. */
const SIGMAS = [1, 2];
const SHORTEST = 22;
/** Tells hairs, scratches and wires from lines of the picture; fitted by `bench/train-curves.ts`. */
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
/** Score from which a px of line is rather taken than left, and what a further piece must bring: so many px at twice that. */
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
export function likelyPieces(samples: CurveSamples, forest = CURVE_FOREST): CurvePiece[] {
  const n = samples.points.length;
  const whole = samples.measure(0, n);
  if (!whole) return [];
  const all = cutsOf(n);
  // Most lines are nothing, in no piece of them: few cuts tell that, and spare measuring at all.
  const few = all.filter((_, i) => i % COARSE === 0 || i === all.length - 1);
  const rough = bestCut(samples, whole, few, forest);
  if (few.length < all.length && rough.best < HOPELESS) return [{ from: 0, to: n, features: whole }];
  const { pieces } = few.length < all.length ? bestCut(samples, whole, all, forest) : rough;
  return pieces.length ? pieces : [{ from: 0, to: n, features: whole }];
}

/** Every so many of the cuts are tried first, and the score of all pieces below which no others are tried. */
const COARSE = 3;
const HOPELESS = 0.05;

/** By how much the logit of a piece is lowered: of so many that are tried the best is chosen, which flatters it. */
const FLATTERED = 1.2;
const doubting = (forest: Forest): Forest => ({ ...forest, bias: forest.bias - FLATTERED });

/** {@link curveScore} of a candidate, for what it was chosen from. */
export const candidateScore = (c: Pick<CurveCandidate, 'features' | 'whole'>, forest = CURVE_FOREST): number =>
  curveScore(c.features, c.whole ? forest : doubting(forest));

/** The way to cut a line at some of the places that is worth most, and the score of the best piece there is. */
function bestCut(
  { points, measure }: CurveSamples,
  whole: CurveFeatures,
  cuts: readonly number[],
  forest: Forest,
): { pieces: CurvePiece[]; best: number } {
  const ways: Array<{ worth: number; piece: CurvePiece | null; before: number }> = [
    { worth: 0, piece: null, before: 0 },
  ];
  let best = 0;
  let single: { worth: number; piece: CurvePiece | null } = { worth: 0, piece: null };
  for (let b = 1; b < cuts.length; b++) {
    let top: (typeof ways)[number] = { worth: ways[b - 1].worth, piece: null, before: b - 1 };
    for (let a = 0; a < b; a++) {
      const [from, to] = [cuts[a], cuts[b]];
      if (to - from < SHORTEST) continue;
      const features = to - from === points.length ? whole : measure(from, to);
      if (!features) continue;
      const score = candidateScore({ features, whole: to - from === points.length }, forest);
      if (score > best) best = score;
      const own = (to - from) * (score - WORTH);
      if (own > single.worth) single = { worth: own, piece: { from, to, features } };
      const worth = ways[a].worth + own - FURTHER * (1 - WORTH);
      if (worth > top.worth) top = { worth, piece: { from, to, features }, before: a };
    }
    ways.push(top);
  }
  const pieces: CurvePiece[] = [];
  for (let b = cuts.length - 1; b > 0; b = ways[b].before) if (ways[b].piece) pieces.push(ways[b].piece!);
  // The first piece costs nothing.
  if (!pieces.length && single.piece) pieces.push(single.piece);
  return { pieces: pieces.reverse(), best };
}

/** Lines count by their length when they are compared with others. */
export const CURVE_AMONG = { weigh: (f: Pick<Find, 'length'>) => Math.min(1.5, f.length / 100), least: 1 / 6 };

/** A thin line and what it may be. */
export interface CurveCandidate {
  find: Omit<Find, 'score'>;
  points: Point[];
  features: CurveFeatures;
  /** whether it is a line as a whole, or a piece that was chosen among many */
  whole: boolean;
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
      out.push({ points, features, find, whole: to - from === samples.points.length });
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

/**
 * Finds hairs, scratches and wires: thin lines that stand out from both their sides, in one even tone.
 * Source: crest lines after Steger 1998 (see `ridges.ts`); what tells damage from lines of the picture is a forest of own
 * measurement (`bench/train-curves.ts`).
 */
export const curves: Finder = {
  find(input, onProgress) {
    const { width, height } = input.picture;
    const scored = curveCandidates(input, onProgress).map(({ find, features, whole }) => ({
      ...find,
      score: candidateScore({ features, whole }),
    }));
    return amongOthers(scored, width, height, CURVE_AMONG).filter((f) => f.score > 0.08);
  },
};
