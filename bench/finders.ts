// npm run bench:finders, or npx tsx bench/finders.ts SEED : how well specks, hairs and scratches are found at the usual
// sensitivity, on photographs with planted ones of known truth at three contrasts, beside a general ridge filter; and how long a whole survey takes.
import { createRequire } from 'node:module';
import type { Find } from '../src/core/find/find.ts';
import { survey } from '../src/core/find/survey.ts';
import type { Raster } from '../src/core/raster/raster.ts';
import { CURVE_CONTRASTS, matchCurves, matchMask, plantCurves } from './curves.ts';
import { meanOf, photograph, PHOTOGRAPHS, randomiser } from './planted.ts';
import { lookForSpecks, plantSpecks, shown, SPECK_CONTRASTS, speckResult } from './specks.ts';

// eslint-disable-next-line @typescript-eslint/no-explicit-any
const cv: any = createRequire(import.meta.url)('@techstark/opencv-js');
await new Promise<void>((resolve) => (cv.Mat ? resolve() : (cv.onRuntimeInitialized = () => resolve())));

/** A morphological line filter of a general library with a threshold: top-hat and black-hat of 7 px over 30 levels. */
function lineFilter(picture: Raster): Uint8Array {
  const src = cv.matFromArray(picture.height, picture.width, cv.CV_8UC3, picture.data);
  const grey = new cv.Mat();
  cv.cvtColor(src, grey, cv.COLOR_RGB2GRAY);
  const kernel = cv.getStructuringElement(cv.MORPH_ELLIPSE, new cv.Size(7, 7));
  const out = new Uint8Array(picture.width * picture.height);
  for (const op of [cv.MORPH_TOPHAT, cv.MORPH_BLACKHAT]) {
    const dst = new cv.Mat();
    cv.morphologyEx(grey, dst, op, kernel);
    for (let i = 0; i < out.length; i++) if (dst.data[i] > 30) out[i] = 1;
    dst.delete();
  }
  [src, grey, kernel].forEach((m) => m.delete());
  return out;
}

const failures: string[] = [];
const random = randomiser(Number(process.argv[2] ?? 77));
const near = (a: Pick<Find, 'box'>, b: Pick<Find, 'box'>) => {
  const [p, q] = [a, b].map(({ box }) => [box.x + box.width / 2, box.y + box.height / 2]);
  return Math.hypot(p[0] - q[0], p[1] - q[1]) < 4;
};

const asItIs = new Map<string, ReturnType<typeof lookForSpecks>>();
for (const name of PHOTOGRAPHS) {
  const looked = lookForSpecks(await photograph(name));
  asItIs.set(name, looked);
  console.log(
    `${name.padEnd(26)} as it is: ${shown(looked.finds()).length} specks (old prints have dust of their own)`,
  );
}
for (const times of SPECK_CONTRASTS) {
  const scores: number[] = [];
  for (const name of PHOTOGRAPHS) {
    const planted = plantSpecks(await photograph(name), 120, { times, random });
    const looked = lookForSpecks(planted.picture);
    // What is found in the picture as it is, judged as strictly, may be dust of its own: neither for nor against.
    const dust = shown(asItIs.get(name)!.finds(looked.doubt));
    scores.push(speckResult(shown(looked.finds()), planted, (f) => dust.some((d) => near(d, f))).f1);
  }
  console.log(
    `specks at ${times} σ: F1 ${scores.map((s) => s.toFixed(2)).join(' ')}, mean ${meanOf(scores).toFixed(3)}`,
  );
  if (meanOf(scores) < 0.9) failures.push(`specks at ${times} σ: F1 ${meanOf(scores).toFixed(2)}`);
}
for (const times of CURVE_CONTRASTS) {
  const rows: Array<{ recall: number; precision: number; r: number; p: number }> = [];
  for (const name of PHOTOGRAPHS) {
    const clean = await photograph(name);
    const planted = plantCurves(clean, 24, { times, random });
    const { picture, lines, near } = planted;
    const finds = shown(survey(picture, { finders: ['curves'] }));
    const ours = matchCurves(
      finds.flatMap((f) => f.shapes),
      planted,
    );
    const theirs = matchMask(lineFilter(picture), clean.width, lines, near);
    rows.push({ ...ours, r: theirs.recall, p: theirs.precision });
  }
  const m = (k: 'recall' | 'precision' | 'r' | 'p') => meanOf(rows.map((r) => r[k]));
  console.log(
    `hairs and scratches at ${times} σ: recall ${m('recall').toFixed(2)}, precision ${m('precision').toFixed(2)}; general line filter ${m('r').toFixed(2)}, ${m('p').toFixed(2)}`,
  );
  if (m('recall') < 0.9) failures.push(`hairs and scratches at ${times} σ: recall ${m('recall').toFixed(2)}`);
  if (m('precision') < 0.8) failures.push(`hairs and scratches at ${times} σ: precision ${m('precision').toFixed(2)}`);
}
const large = await photograph('nagasaki-boats', 4300);
const t = performance.now();
survey(large);
const seconds = (performance.now() - t) / 1000;
const megapixels = (large.width * large.height) / 1e6;
console.log(`a whole survey of ${megapixels.toFixed(1)} megapixels on one thread: ${seconds.toFixed(1)} s`);
if (seconds > (20 * megapixels) / 14) failures.push(`survey: ${seconds.toFixed(1)} s`);
console.log(failures.length ? `NOT REACHED: ${failures.join(', ')}` : 'all reached');
process.exitCode = failures.length ? 1 : 0;
