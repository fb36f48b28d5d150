// npx tsx bench/train-curves.ts : fits the weights of the curve score on planted hairs and scratches, leaving each picture out.
import { curveCandidates, curveVector, type CurveFeatures } from '../src/core/find/curves.ts';
import { lumaPlane } from '../src/core/find/luma.ts';
import { CURVE_CONTRASTS, plantCurves } from './curves.ts';
import { fitLogistic, scoreOf, type Labelled } from './logistic.ts';
import { photograph, PHOTOGRAPHS, randomiser } from './planted.ts';

const KEYS = ['length', 'clear', 'uneven', 'lopsided', 'seen', 'crisp', 'crowd'] as Array<keyof CurveFeatures>;
interface Row extends Labelled {
  picture: string;
  run: string;
  length: number;
  good: number;
}
const rows: Row[] = [];
const totals = new Map<string, { length: number; reached: number }>();
const random = randomiser(31);
for (const name of PHOTOGRAPHS) {
  const clean = await photograph(name);
  for (const times of [0, ...CURVE_CONTRASTS]) {
    const planted = plantCurves(clean, times ? 24 : 0, times || 1, random);
    const t = performance.now();
    const found = curveCandidates({ picture: planted.picture, luma: lumaPlane(planted.picture) });
    const ms = performance.now() - t;
    const run = `${name}/${times}`;
    const seen = new Uint8Array(clean.width * clean.height);
    for (const c of found) {
      let good = 0;
      for (const [x, y] of c.points) {
        const i = Math.floor(y) * clean.width + Math.floor(x);
        if (planted.near[i] <= 2) good++;
        for (let v = -2; v <= 2; v++)
          for (let u = -2; u <= 2; u++)
            if (seen[i + v * clean.width + u] !== undefined) seen[i + v * clean.width + u] = 1;
      }
      const share = good / c.points.length;
      const v = curveVector(c.features);
      rows.push({
        picture: name,
        run,
        x: KEYS.map((k) => v[k]),
        y: share > 0.7 ? 1 : 0,
        length: c.features.length,
        good: share * c.features.length,
      });
    }
    const length = planted.lines.reduce((s, l) => s + l.length, 0);
    const reached = planted.lines.flat().filter(([x, y]) => seen[Math.floor(y) * clean.width + Math.floor(x)]).length;
    totals.set(run, { length, reached });
    console.log(
      run,
      `${found.length} candidates, reach ${(reached / Math.max(1, length)).toFixed(2)} of ${length} px, ${ms.toFixed(0)} ms`,
    );
  }
}
for (const name of PHOTOGRAPHS) {
  const model = fitLogistic(rows.filter((r) => r.picture !== name));
  for (const times of [0, ...CURVE_CONTRASTS]) {
    const run = `${name}/${times}`;
    const mine = rows.filter((r) => r.run === run && scoreOf(model, r.x) >= 0.5);
    const good = mine.reduce((s, r) => s + r.good, 0);
    const all = mine.reduce((s, r) => s + r.length, 0);
    const total = totals.get(run)!.length;
    console.log(
      run.padEnd(30),
      times
        ? `recall ${(good / total).toFixed(2)} precision ${(good / all).toFixed(2)}`
        : `false ${all.toFixed(0)} px in ${mine.length}`,
    );
  }
}
const model = fitLogistic(rows);
console.log(JSON.stringify(Object.fromEntries([['bias', model.b], ...KEYS.map((k, i) => [k, model.w[i]])])));
