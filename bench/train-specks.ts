// npx tsx bench/train-specks.ts : fits the weights of the speck score on planted specks, and says how well weights fitted
// on the other photographs do on each (leave one out).
import { speckCandidates, speckVector, type SpeckFeatures } from '../src/core/find/specks.ts';
import { lumaPlane } from '../src/core/find/luma.ts';
import { fitLogistic, scoreOf, type Labelled } from './logistic.ts';
import { photograph, PHOTOGRAPHS, randomiser } from './planted.ts';
import { matchSpeck, plantSpecks, SPECK_CONTRASTS } from './specks.ts';

const KEYS = (process.env.KEYS ?? 'clear,compact,crisp,rough,busy,crowd,rival,rivals,size').split(',') as Array<
  keyof SpeckFeatures
>;
interface Row extends Labelled {
  picture: string;
  run: string;
}
const rows: Row[] = [];
const totals = new Map<string, number>();
const random = randomiser(21);
const vector = (f: SpeckFeatures) => {
  const v = speckVector(f);
  return KEYS.map((k) => v[k]);
};
for (const name of PHOTOGRAPHS) {
  const clean = await photograph(name);
  for (const times of [0, ...SPECK_CONTRASTS]) {
    const planted = plantSpecks(clean, times ? 120 : 0, times || 1, random);
    const run = `${name}/${times}`;
    totals.set(run, planted.list.length);
    const t = performance.now();
    const found = speckCandidates({ picture: planted.picture, luma: lumaPlane(planted.picture) });
    const ms = performance.now() - t;
    const seen = new Set<number>();
    for (const c of found) {
      const m = matchSpeck(c.find, planted.owner, planted.list, clean.width);
      rows.push({ picture: name, run, x: vector(c.features), y: m >= 0 && !seen.has(m) ? 1 : 0 });
      if (m >= 0) seen.add(m);
    }
    if (!process.env.QUIET)
      console.log(run, `${found.length} candidates, reach ${seen.size} of ${planted.list.length}, ${ms.toFixed(0)} ms`);
  }
}

let all = 0;
let runs = 0;
for (const name of PHOTOGRAPHS) {
  const model = fitLogistic(rows.filter((r) => r.picture !== name));
  for (const times of [0, ...SPECK_CONTRASTS]) {
    const run = `${name}/${times}`;
    const mine = rows.filter((r) => r.run === run).map((r) => ({ s: scoreOf(model, r.x), y: r.y }));
    const hit = mine.filter((r) => r.s >= 0.5 && r.y).length;
    const wrong = mine.filter((r) => r.s >= 0.5 && !r.y).length;
    const total = totals.get(run)!;
    const f1 = (2 * hit) / (2 * hit + wrong + total - hit);
    if (times) {
      all += f1;
      runs++;
    }
    console.log(
      run.padEnd(30),
      times ? `F1 ${f1.toFixed(3)} recall ${(hit / total).toFixed(2)}` : '',
      `false ${wrong}`,
    );
  }
}
console.log(`mean F1, left out: ${(all / runs).toFixed(3)}`);
const model = fitLogistic(rows);
console.log(JSON.stringify(Object.fromEntries([['bias', model.b], ...KEYS.map((k, i) => [k, model.w[i]])])));
