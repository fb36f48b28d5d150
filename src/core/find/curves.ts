import type { Point } from '../mask/shapes.ts';
import { simplified } from '../mask/outline.ts';
import { CURVE_FEATURES, curveMeter, smoothed, type CurveFeatures } from './curve-features.ts';
import { logitOf, readForest } from './forest.ts';
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
export function curveScore(f: CurveFeatures): number {
  return sigmoid(logitOf(CURVE_FOREST, curveVector(f)));
}

/** Lines count by their length when they are compared with others. */
export const CURVE_AMONG = { weigh: (f: Pick<Find, 'length'>) => Math.min(1.5, f.length / 100), least: 1 / 6 };

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

/** Every thin line of a picture that may be a hair, a scratch or a wire, with what was measured on it. */
export function curveCandidates(input: FindInput, onProgress?: (done: number) => void): CurveCandidate[] {
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
  const longSide = Math.max(width, height);
  const measure = curveMeter(input.picture, plane);
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
    const m = measure(ridge, sigma);
    if (!m) continue;
    const r = Math.ceil(m.width / 2 + 1);
    for (const [x, y] of ridge.points) {
      for (let v = Math.max(0, Math.floor(y) - r); v <= Math.min(height - 1, Math.floor(y) + r); v++)
        owner.fill(1, v * width + Math.max(0, Math.floor(x) - r), v * width + Math.min(width, Math.floor(x) + r + 1));
    }
    let crowd = 0;
    for (const p of ridge.points) crowd += cells[cell(p)];
    m.crowd = Math.max(0, ((crowd / ridge.points.length - Math.min(40, ridge.points.length)) * 1000) / 1024);
    const line = smoothed(ridge.points, 2);
    const points = simplified(line, 0.4);
    const outline = strandOutline({ points, widths: points.map(() => m.width) }, 0.2);
    const xs = outline.map((p) => p[0]);
    const ys = outline.map((p) => p[1]);
    const x0 = Math.max(0, Math.floor(Math.min(...xs)));
    const y0 = Math.max(0, Math.floor(Math.min(...ys)));
    out.push({
      points: line,
      features: m,
      find: {
        kind: kindOf(m, longSide),
        shapes: [{ op: 'add', kind: 'strand', points, size: Math.max(1, m.width + 0.4) }],
        box: {
          x: x0,
          y: y0,
          width: Math.min(width, Math.ceil(Math.max(...xs))) - x0,
          height: Math.min(height, Math.ceil(Math.max(...ys))) - y0,
        },
        width: m.width,
        length: m.length,
        contrast: ridge.light ? m.contrast : -m.contrast,
      },
    });
  }
  return out;
}

/**
 * Finds hairs, scratches and wires: thin lines that stand out from both their sides, in one even tone.
 * Source: crest lines after Steger 1998 (see `ridges.ts`); what tells damage from lines of the picture is a forest of own
 * measurement (`bench/train-curves.ts`).
 */
export const curves: Finder = {
  find(input, onProgress) {
    const { width, height } = input.picture;
    const scored = curveCandidates(input, onProgress).map(({ find, features }) => ({
      ...find,
      score: curveScore(features),
    }));
    return amongOthers(scored, width, height, CURVE_AMONG).filter((f) => f.score > 0.08);
  },
};
