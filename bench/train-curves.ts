// npx tsx bench/train-curves.ts : fits the forest that tells hairs, scratches and wires from lines of the picture, on
// photographs with planted ones, and says how well forests fitted on the other photographs do on each (leave one out).
import type { CurveSamples } from '../src/core/find/lines/line-features.ts';
import { curveVector, cutsOf, likelyPieces, type CurvePiece } from '../src/core/find/lines/likely-pieces.ts';
import { curveCandidates, curveWeight, scoredCurves } from '../src/core/find/lines/thin-lines.ts';
import type { Find } from '../src/core/find/find.ts';
import { lumaPlane } from '../src/core/raster/luma.ts';
import type { Raster } from '../src/core/raster/raster.ts';
import { fitForest, saveForest, type Example } from './boost.ts';
import { CURVE_CONTRASTS, matchCurves, plantCurves } from './curves.ts';
import { meanOf, PHOTOGRAPHS, randomiser } from './planted.ts';
import { FITTED, gather, TREES, type Run } from './training.ts';

/** Pieces of each line that are learned from, the whole line among them. */
const PIECES = 4;
const OPTIONS = { ...TREES, trees: 220, rate: 0.08, least: 3 };

type Row = Omit<Find, 'score'> & { x: Float32Array; share: number };
interface CurveRun extends Run<Row> {
  planted: ReturnType<typeof plantCurves>;
}
/** For each photograph a generator of its own. */
const randoms = new Map(FITTED.map((name) => [name, randomiser(31 + name.length)]));

/** A line as a whole and some of the pieces that it may be cut into. */
function anyPieces({ points, measure }: CurveSamples, random: () => number): CurvePiece[] {
  const cuts = cutsOf(points.length);
  const wanted: Array<[number, number]> = [[0, points.length]];
  for (let tries = 0; wanted.length < PIECES && tries < 12; tries++) {
    const [a, b] = [0, 1].map(() => cuts[Math.floor(random() * cuts.length)]).sort((p, q) => p - q);
    if (b - a >= 22 && b - a < points.length) wanted.push([a, b]);
  }
  return wanted.flatMap(([from, to]) => {
    const features = measure(from, to);
    return features ? [{ from, to, features }] : [];
  });
}

function runOf(picture: string, clean: Raster, times: number | null): CurveRun {
  const random = randoms.get(picture)!;
  const planted =
    times === null
      ? plantCurves(clean, 30, { times: () => 1.8 + 4.5 * random() ** 1.3, random, varied: true })
      : plantCurves(clean, times ? 24 : 0, { times: times || 1, random });
  const input = { picture: planted.picture, luma: lumaPlane(planted.picture) };
  const found = curveCandidates(input, undefined, (samples) => anyPieces(samples, random));
  const rows = found.map((c): Row => {
    const good = c.points.filter(([x, y]) => planted.near[Math.floor(y) * clean.width + Math.floor(x)] <= 2).length;
    return { ...c.find, x: curveVector(c.features), share: good / c.points.length };
  });
  const all = matchCurves(
    found.flatMap((c) => c.find.shapes),
    planted,
  );
  console.log(
    `${picture.padEnd(26)} ${String(times ?? 'fit').padEnd(4)} ${found.length} candidates, reach ${all.recall.toFixed(2)}`,
  );
  return { picture, times, planted, rows };
}

const runs = await gather(
  CURVE_CONTRASTS,
  [
    'as it is',
    'negative',
    'small',
    'small negative',
    'large',
    'large negative',
    'as it is',
    'as it is',
    'small',
    'large',
    'negative',
    'as it is',
  ],
  runOf,
);

function fit(without: string | null) {
  const data: Example[] = [];
  for (const run of runs) {
    if (run.picture === without) continue;
    for (const { x, share, length } of run.rows) {
      // What counts is length, and a find that is half a planted line counts half.
      const weight = curveWeight(length);
      if (share > 0.05) data.push({ x, y: 1, weight: share * weight });
      if (share < 0.95) data.push({ x, y: 0, weight: (1 - share) * weight });
    }
  }
  return fitForest(data, { ...OPTIONS, random: randomiser(3) });
}

const LEANS = [-0.5, 0, 0.5];
const sums = LEANS.map(() => new Map<number, Array<{ recall: number; precision: number }>>());
for (const name of PHOTOGRAPHS) {
  const forest = fit(name);
  LEANS.forEach((lean, n) => {
    const leaning = { ...forest, bias: forest.bias + lean };
    let line = `${name.padEnd(26)} lean ${lean}`;
    for (const run of runs.filter((r) => r.picture === name && r.times !== null)) {
      const input = { picture: run.planted.picture, luma: lumaPlane(run.planted.picture) };
      const candidates = curveCandidates(input, undefined, (samples) => likelyPieces(samples, leaning));
      const found = scoredCurves(candidates, input, leaning, lean).filter((f) => f.score >= 0.5);
      if (!run.times) {
        line += ` as it is ${found.length}`;
        continue;
      }
      const m = matchCurves(
        found.flatMap((f) => f.shapes),
        run.planted,
      );
      sums[n].set(run.times, [...(sums[n].get(run.times) ?? []), m]);
      line += `; ${run.times} σ recall ${m.recall.toFixed(2)}, precision ${m.precision.toFixed(2)}`;
    }
    console.log(line);
  });
}
LEANS.forEach((lean, n) => {
  for (const [times, list] of sums[n]) {
    const mean = (k: 'recall' | 'precision') => meanOf(list.map((m) => m[k])).toFixed(3);
    console.log(`lean ${lean}, ${times} σ, left out: recall ${mean('recall')}, precision ${mean('precision')}`);
  }
});
saveForest(fit(null), 'curves');
