// npm run bench:check-decides [-- --list] : three tries of wide covers with a known truth (two grounds, structure, even ground), put in the order of
// what checks find in them: how often the first is the worst of three by the truth, and how often the best. Error of a try: what the
// kind of case is measured by elsewhere (wrong ground and border, edges lost, colour after a blur).
import { checkPicture, findingsOf, signsOf } from '../src/core/check/check.ts';
import { givenAway, inOrderOfVerdict } from '../src/core/check/order.ts';
import { placeOf } from '../src/core/check/place.ts';
import { boundsOf } from '../src/core/mask/mask.ts';
import { blur } from '../src/core/raster/planes.ts';
import { fillRegion } from '../src/core/repair/fill/region.ts';
import { DEFAULT_FILL, LAID_OUT } from '../src/core/repair/fill/settings.ts';
import { crop, growWithin, type Raster } from '../src/core/raster/raster.ts';
import { edgesFound, groundFigures, structures, twoGrounds, type Planted } from './grounds.ts';
import { BLOBS, blob, coverOf, photograph, spoiled } from './planted.ts';

const SIZE = 160;
type Case = Planted & { error(data: ArrayLike<number>): number };

/** Mean difference of colour under a cover after a blur of 4 px, levels. */
function offBy(truth: Raster, cover: Uint8Array, data: ArrayLike<number>): number {
  const { width, height } = truth;
  const planes = [truth.data, data].map((d) =>
    [0, 1, 2].map((c) =>
      blur(
        Float32Array.from({ length: width * height }, (_, i) => d[3 * i + c]),
        width,
        height,
        4,
      ),
    ),
  );
  let [sum, n] = [0, 0];
  cover.forEach((v, i) => {
    if (!v) return;
    n++;
    for (let c = 0; c < 3; c++) sum += Math.abs(planes[0][c][i] - planes[1][c][i]) / 3;
  });
  return sum / n;
}
const edgesLost = (p: Planted, data: ArrayLike<number>) => 100 - edgesFound(p, data, SIZE);
const cases: Case[] = [];
for (const p of await twoGrounds(SIZE))
  cases.push({
    ...p,
    error: (data) => {
      const { right, mixed, border } = groundFigures(p, data, SIZE);
      return 100 - right + mixed + border;
    },
  });
for (const p of structures(SIZE)) cases.push({ ...p, error: (data) => edgesLost(p, data) });
for (const { ground, picture, x, y, radius } of BLOBS) {
  const whole = await photograph(picture);
  const box = growWithin(
    { x: x - radius, y: y - radius, width: 2 * radius, height: 2 * radius },
    260,
    whole.width,
    whole.height,
  );
  const truth = crop(whole, box);
  const cover = coverOf(blob(x - box.x, y - box.y, radius), truth.width, truth.height);
  const p = { name: `${ground} (photograph)`, truth, cover } as Planted;
  cases.push({ ...p, error: (data) => offBy(truth, cover, data) });
}

let [worst, best, decided] = [0, 0, 0];
for (const one of cases) {
  const { truth, cover, name } = one;
  const tries = LAID_OUT.map((style) => {
    const { picture } = fillRegion({ picture: spoiled(truth, cover), cover }, { ...DEFAULT_FILL, style });
    const box = boundsOf({ x: 0, y: 0, width: truth.width, height: truth.height, data: cover });
    const findings = findingsOf(signsOf(placeOf({ after: picture }, cover, box)), 1600);
    return {
      error: one.error(picture.data),
      findings,
      given: givenAway(findings),
      kinds: findings.map((f) => f.kind).join(' '),
    };
  });
  const errors = tries.map((t) => t.error);
  const spread = Math.max(...errors) - Math.min(...errors);
  // Tries that come to the same, within a level or a percent, are no choice.
  const alike = spread < 1;
  const first = tries[inOrderOfVerdict(tries.map((t) => t.findings))[0]];
  if (!alike) {
    decided++;
    if (first.error === Math.max(...errors)) worst++;
    if (first.error <= Math.min(...errors) + 0.02 * spread) best++;
  }
  if (process.argv.includes('--list'))
    console.log(
      `${name.padEnd(26)} ${tries.map((t) => `${t.error.toFixed(1)} (${t.given.toFixed(2)}${t === first ? ' first' : ''} ${t.kinds})`).join('   ')}`,
    );
}
const control = cases.filter(
  ({ truth, cover }) => checkPicture({ after: truth }, cover, { longSide: 1600 }).length > 0,
);
console.log(
  `${cases.length} cases, in ${decided} the tries differ: put first was the worst of three in ${worst} (must ${(decided / 20).toFixed(1)}), the best in ${best} (must ${(0.7 * decided).toFixed(1)}); the truth itself has findings in ${control.length}`,
);
