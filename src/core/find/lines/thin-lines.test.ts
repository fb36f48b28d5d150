import type { Point } from '../../mask/shapes.ts';
import { CURVE_FEATURES, type CurveFeatures, type CurveSamples } from './line-features.ts';
import { createRaster } from '../../raster/raster.ts';
import { curveScore, cutsOf, likelyPieces } from './likely-pieces.ts';
import { scoredCurves, type CurveCandidate } from './thin-lines.ts';
import type { Forest } from '../scoring/forest.ts';

/** A forest of one question: contrast above 10 levels is a hair, at any other it is not. */
const byContrast: Forest = {
  bias: 0,
  depth: 1,
  trees: [{ feature: [CURVE_FEATURES.indexOf('contrast')], threshold: [10], leaf: [-4, 4] }],
};

/** A line of which a share of each piece is a hair: as much contrast as that share of 20 levels. */
function lineOf(length: number, hair: (i: number) => boolean): CurveSamples & { asked: number } {
  const points = Array.from({ length }, (_, i): Point => [i, 0]);
  const samples = {
    points,
    asked: 0,
    measure(from: number, to: number): CurveFeatures {
      samples.asked++;
      const share = points.slice(from, to).filter(([x]) => hair(x)).length / (to - from);
      const features = Object.fromEntries(CURVE_FEATURES.map((name) => [name, 0])) as CurveFeatures;
      return { ...features, length: to - from, width: 2, contrast: 20 * share ** 20 };
    },
  };
  return samples;
}

describe('pieces of a thin line', () => {
  test('cuts go from end to end in even steps, few of them however long it is', () => {
    expect(cutsOf(20)).toEqual([0, 20]);
    expect(cutsOf(60)).toEqual([0, 12, 24, 36, 48, 60]);
    for (const n of [23, 100, 333, 5000]) {
      const cuts = cutsOf(n);
      const steps = cuts.slice(1).map((c, i) => c - cuts[i]);
      expect([cuts[0], cuts.at(-1)]).toEqual([0, n]);
      expect(Math.max(...steps) - Math.min(...steps)).toBeLessThanOrEqual(1);
      expect(cuts.length).toBeLessThan(22);
    }
  });

  test('a line that is a hair all along stays in one', () => {
    const pieces = likelyPieces(
      lineOf(320, () => true),
      byContrast,
    );
    expect(pieces.map(({ from, to }) => [from, to])).toEqual([[0, 320]]);
    expect(curveScore(pieces[0].features, byContrast)).toBeGreaterThan(0.95);
  });

  test('a hair that runs on into something else is cut from it', () => {
    const mixed = lineOf(320, (i) => i >= 96 && i < 224);
    expect(curveScore(mixed.measure(0, 320)!, byContrast)).toBeLessThan(0.05);
    const pieces = likelyPieces(mixed, byContrast);
    expect(pieces).toHaveLength(1);
    expect(Math.abs(pieces[0].from - 96)).toBeLessThanOrEqual(320 / 20);
    expect(Math.abs(pieces[0].to - 224)).toBeLessThanOrEqual(320 / 20);
  });

  test('the ends of a piece are found to a few px, however coarse the cuts', () => {
    for (const [from, to] of [
      [103, 231],
      [37, 150],
    ]) {
      const [piece] = likelyPieces(
        lineOf(320, (i) => i >= from && i < to),
        byContrast,
      );
      expect(Math.abs(piece.from - from)).toBeLessThanOrEqual(4);
      expect(Math.abs(piece.to - to)).toBeLessThanOrEqual(4);
    }
  });

  test('two hairs with something between them are two', () => {
    const pieces = likelyPieces(
      lineOf(300, (i) => i < 110 || i > 190),
      byContrast,
    );
    expect(pieces).toHaveLength(2);
    expect(pieces[0].to).toBeLessThan(150);
    expect(pieces[1].from).toBeGreaterThan(150);
  });

  test('what is none stays whole, for those who want to see less certain finds', () => {
    const nothing = lineOf(200, () => false);
    expect(likelyPieces(nothing, byContrast).map(({ from, to }) => [from, to])).toEqual([[0, 200]]);
    // No piece is measured twice.
    expect(nothing.asked).toBeLessThanOrEqual((cutsOf(200).length * (cutsOf(200).length - 1)) / 2 + 1);
    const flat: CurveSamples = { points: nothing.points, measure: () => null };
    expect(likelyPieces(flat, byContrast)).toEqual([]);
  });
});

describe('lines of a picture judged together', () => {
  const SIZE = { width: 1600, height: 1200 };
  /** From 10 levels on it is sure of a hair, from 5 on it is not sure at all, below it is sure of none. */
  const unsureBetween: Forest = {
    bias: -3,
    depth: 2,
    trees: [
      {
        feature: [CURVE_FEATURES.indexOf('contrast'), CURVE_FEATURES.indexOf('contrast'), -1],
        threshold: [10, 5, 0],
        leaf: [-2, 3.3, 8, 8],
      },
    ],
  };
  /** A line by itself in the n-th place of the picture. */
  function candidate(n: number, contrast: number, kind: 'hair' | 'strand' = 'hair'): CurveCandidate {
    const [x, y] = [60 + (n % 8) * 190, 40 + Math.floor(n / 8) * 70];
    const points = Array.from({ length: 90 }, (_, i): Point => [x + i, y + 0.5]);
    const features = Object.fromEntries(CURVE_FEATURES.map((name) => [name, 0])) as CurveFeatures;
    const box = { x, y: y - 1, width: 90, height: 3 };
    return {
      points,
      features: { ...features, contrast, width: 2, length: 90 },
      find: { kind, shapes: [], box, width: 2, length: 90, contrast },
    };
  }
  const picture = createRaster(SIZE.width, SIZE.height, 3, 8);
  const scores = (candidates: CurveCandidate[], lean = 0) =>
    scoredCurves(
      candidates,
      { picture, luma: new Float32Array(SIZE.width * SIZE.height) },
      { ...unsureBetween, bias: unsureBetween.bias + lean },
      lean,
    );
  const scoreOf = (list: ReturnType<typeof scores>, contrast: number, kind = 'hair') =>
    list.find((f) => f.contrast === contrast && f.kind === kind)?.score ?? 0;
  const none = Array.from({ length: 60 }, (_, n) => candidate(n + 24, 1));
  const sure = Array.from({ length: 12 }, (_, n) => candidate(n + 2, 20));

  test('one that is unsure is likely among many sure ones and unlikely where there is no other', () => {
    expect(scoreOf(scores([candidate(0, 7), ...sure, ...none]), 7)).toBeGreaterThan(0.5);
    expect(scoreOf(scores([candidate(0, 7), ...none]), 7)).toBeLessThan(0.3);
  });

  test('one that is sure stays, and so does an unsure wire', () => {
    const found = scores([candidate(0, 20), candidate(1, 7, 'strand'), ...none]);
    expect(scoreOf(found, 20)).toBeGreaterThan(0.8);
    expect(scoreOf(found, 7, 'strand')).toBeCloseTo(1 / (1 + Math.exp(-0.3)), 5);
  });

  test('leaning towards finding makes each surer, not the picture richer', () => {
    const at = (lean: number) => scoreOf(scores([candidate(0, 7), ...sure, ...none], lean), 7);
    expect(Math.log(at(0.5) / (1 - at(0.5))) - Math.log(at(0) / (1 - at(0)))).toBeCloseTo(0.5, 5);
  });
});
