// npx tsx bench/train-specks.ts : fits the forest that tells specks from detail, on photographs with planted specks and
// on clean ones, and says how well forests fitted on the other photographs do on each (leave one out), the doubt of busy ground left aside. About half an hour.
import { logitOf, type Forest } from '../src/core/find/scoring/forest.ts';
import { sigmoid } from '../src/core/find/find.ts';
import { lumaPlane } from '../src/core/raster/luma.ts';
import { doubtOfRare } from '../src/core/find/scoring/prevalence.ts';
import { speckCandidates } from '../src/core/find/specks/speck-candidates.ts';
import { scoredSpecks, speckVectors } from '../src/core/find/specks/specks.ts';
import type { Raster } from '../src/core/raster/raster.ts';
import { fitForest, saveForest, type Example } from './boost.ts';
import { meanOf, PHOTOGRAPHS, randomiser } from './planted.ts';
import { matchSpeck, plantSpecks, shown, SPECK_CONTRASTS } from './specks.ts';
import { FITTED, gather, gatherClean, TREES, type Run } from './training.ts';

const OPTIONS = { ...TREES, trees: 300, depth: 5 };
/** Details of one picture that are learned from: a large one has a hundred thousand. */
const DETAILS = 2000;

interface Row {
  x: Float32Array;
  y: 0 | 1;
  match: number;
  box: { x: number; y: number; width: number; height: number };
  length: number;
}
interface SpeckRun extends Run<Row> {
  total: number;
  width: number;
  height: number;
}

function runOf(picture: string, clean: Raster, times: number | null, random: () => number, count: number): SpeckRun {
  const planted =
    times === null
      ? plantSpecks(clean, count, { times: () => 3.5 + 9 * random() ** 1.3, random, varied: true })
      : plantSpecks(clean, times ? count : 0, { times: times || 1, random });
  const found = speckCandidates({ picture: planted.picture, luma: lumaPlane(planted.picture) });
  const vectors = speckVectors(found, clean);
  const rows = found.map(({ find }, i): Row => {
    const match = matchSpeck(find, planted.owner, planted.list, clean.width);
    return { x: vectors[i], y: match >= 0 ? 1 : 0, match, box: find.box, length: find.length };
  });
  const reached = new Set(rows.map((r) => r.match)).size - 1;
  console.log(
    `${picture.padEnd(30)} ${String(times ?? 'fit').padEnd(4)} ${found.length} candidates, reach ${reached} of ${planted.list.length}`,
  );
  return { picture, times, total: planted.list.length, width: clean.width, height: clean.height, rows };
}

/** For each photograph a generator of its own. */
const randoms = new Map(FITTED.map((name) => [name, randomiser(21 + name.length)]));
const runs = await gather(
  SPECK_CONTRASTS,
  ['as it is', 'as it is', 'small negative', 'large', 'negative', 'as it is'],
  (picture, clean, times) => runOf(picture, clean, times, randoms.get(picture)!, times === null ? 140 : 120),
);
/** Clean photographs as they are and with specks, at several sizes. */
const modern = await gatherClean(runOf, { small: 140, large: 300 });

/** What a forest that never saw the picture takes for a speck though none was planted: old prints have dust of their own. */
const own = new Set<Row>();

function fit(without: string | null): Forest {
  const random = randomiser(9);
  const data = [...runs, ...modern].flatMap((run) => {
    if (run.picture === without) return [];
    const rows = run.rows.filter((r) => !own.has(r));
    const share = Math.min(1, DETAILS / Math.max(1, rows.filter((r) => !r.y).length));
    return rows.flatMap(({ x, y }): Example[] =>
      y ? [{ x, y, weight: 1 }] : random() < share ? [{ x, y, weight: 1 / share }] : [],
    );
  });
  return fitForest(data, { ...OPTIONS, random: randomiser(3) });
}

const strangers: Row[] = [];
const means = new Map<number, number[]>();
for (const name of PHOTOGRAPHS) {
  const forest = fit(name);
  const mine = runs.filter((run) => run.picture === name && run.times !== null);
  const logits = new Map(mine.map((run) => [run, run.rows.map((r) => logitOf(forest, r.x))]));
  const doubtOf = (run: SpeckRun) => doubtOfRare(logits.get(run)!, sigmoid(forest.bias));
  const foundIn = (run: SpeckRun, doubt: number) => shown(scoredSpecks(run.rows, logits.get(run)!, doubt, run));
  const centre = (r: Row) => [r.box.x + r.box.width / 2, r.box.y + r.box.height / 2];
  const bare = mine.find((run) => run.times === 0)!;
  let line = `${name.padEnd(26)} as it is ${String(foundIn(bare, doubtOf(bare)).length).padStart(3)}`;
  for (const run of mine.filter((r) => r.times)) {
    const doubt = doubtOf(run);
    const dust = foundIn(bare, doubt).map(centre);
    const finds = foundIn(run, doubt);
    const hit = new Set(finds.filter((r) => r.match >= 0).map((r) => r.match)).size;
    const wrong = finds.filter((r) => {
      const [x, y] = centre(r);
      return r.match < 0 && !dust.some(([u, v]) => Math.hypot(u - x, v - y) < 4);
    }).length;
    const f1 = (2 * hit) / (hit + wrong + run.total);
    means.set(run.times!, [...(means.get(run.times!) ?? []), f1]);
    line += `; ${run.times} σ F1 ${f1.toFixed(3)}, recall ${(hit / run.total).toFixed(2)}, ${wrong} false`;
  }
  console.log(line);
  for (const run of runs.filter((r) => r.picture === name))
    strangers.push(...run.rows.filter((r) => !r.y && logitOf(forest, r.x) >= 0));
}
// What may be real dust is no example of detail; only now, so that every picture was measured without its help.
strangers.forEach((r) => own.add(r));
for (const [times, list] of means) console.log(`at ${times} σ, left out: mean F1 ${meanOf(list).toFixed(3)}`);
saveForest(fit(null), 'specks');
