// npx tsx bench/train-specks.ts : fits the forest that tells specks from detail, on photographs with planted specks, and says
// how well forests fitted on the other photographs do on each (leave one out). About ten minutes.
import { amongOthers, sigmoid } from '../src/core/find/find.ts';
import { logitOf } from '../src/core/find/forest.ts';
import { lumaPlane } from '../src/core/find/luma.ts';
import { speckCandidates, speckVector } from '../src/core/find/specks.ts';
import type { Raster } from '../src/core/raster/raster.ts';
import { fitForest, saveForest, type Example } from './boost.ts';
import { meanOf, PHOTOGRAPHS, randomiser } from './planted.ts';
import { matchSpeck, plantSpecks, SPECK_CONTRASTS } from './specks.ts';
import { FITTED, gather, TREES, type Run } from './training.ts';

/** Added to every logit: how much a missed speck counts against a false one. */
const LEAN = 0.75;

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
/** For each photograph a generator of its own. */
const randoms = new Map(FITTED.map((name) => [name, randomiser(21 + name.length)]));

function runOf(picture: string, clean: Raster, times: number | null): SpeckRun {
  const random = randoms.get(picture)!;
  const planted =
    times === null
      ? plantSpecks(clean, 140, { times: () => 3.5 + 9 * random() ** 1.3, random, varied: true })
      : plantSpecks(clean, times ? 120 : 0, { times: times || 1, random });
  const found = speckCandidates({ picture: planted.picture, luma: lumaPlane(planted.picture) });
  const rows = found.map((c): Row => {
    const match = matchSpeck(c.find, planted.owner, planted.list, clean.width);
    return { x: speckVector(c.features), y: match >= 0 ? 1 : 0, match, box: c.find.box, length: c.find.length };
  });
  const reached = new Set(rows.map((r) => r.match)).size - 1;
  console.log(
    `${picture.padEnd(26)} ${String(times ?? 'fit').padEnd(4)} ${found.length} candidates, reach ${reached} of ${planted.list.length}`,
  );
  return { picture, times, total: planted.list.length, width: clean.width, height: clean.height, rows };
}

const runs = await gather(
  SPECK_CONTRASTS,
  ['as it is', 'as it is', 'small negative', 'large', 'negative', 'as it is'],
  runOf,
);

/** What a forest that never saw the picture takes for a speck though none was planted: old prints have dust of their own. */
const own = new Set<Row>();

function fit(without: string | null) {
  const data: Example[] = runs
    .filter((run) => run.picture !== without)
    .flatMap((run) => run.rows.filter((r) => !own.has(r)).map(({ x, y }) => ({ x, y, weight: 1 })));
  const forest = fitForest(data, { ...TREES, random: randomiser(3) });
  return { ...forest, bias: forest.bias + LEAN };
}

const strangers = new Map<string, Row[]>();
const means = new Map<number, number[]>();
for (const name of PHOTOGRAPHS) {
  const forest = fit(name);
  const centre = (r: Row) => [r.box.x + r.box.width / 2, r.box.y + r.box.height / 2];
  const foundIn = (run: SpeckRun) =>
    amongOthers(
      run.rows.map((r) => ({ ...r, score: sigmoid(logitOf(forest, r.x)) })),
      run.width,
      run.height,
    ).filter((r) => r.score >= 0.5);
  const mine = runs.filter((run) => run.picture === name && run.times !== null);
  const dust = foundIn(mine.find((run) => run.times === 0)!).map(centre);
  let line = `${name.padEnd(26)} as it is ${String(dust.length).padStart(3)}`;
  for (const run of mine.filter((r) => r.times)) {
    const found = foundIn(run);
    const hit = new Set(found.map((r) => r.match)).size - (found.some((r) => r.match < 0) ? 1 : 0);
    const wrong = found.filter((r) => {
      const [x, y] = centre(r);
      return r.match < 0 && !dust.some(([u, v]) => Math.hypot(u - x, v - y) < 4);
    }).length;
    const f1 = (2 * hit) / (hit + wrong + run.total);
    means.set(run.times!, [...(means.get(run.times!) ?? []), f1]);
    line += `; ${run.times} σ F1 ${f1.toFixed(3)}, recall ${(hit / run.total).toFixed(2)}, ${wrong} false`;
  }
  console.log(line);
  const rows = runs.filter((run) => run.picture === name).flatMap((run) => run.rows);
  strangers.set(
    name,
    rows.filter((r) => !r.y && logitOf(forest, r.x) >= 0),
  );
}
// What may be real dust is no example of detail; only now, so that every picture was measured without its help.
for (const rows of strangers.values()) rows.forEach((r) => own.add(r));
for (const [times, list] of means) console.log(`at ${times} σ, left out: mean F1 ${meanOf(list).toFixed(3)}`);
saveForest(fit(null), 'specks');
