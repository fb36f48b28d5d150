// npm run bench:finders, or npx tsx bench/finders.ts SEED : how well specks, hairs and scratches are found at the usual
// sensitivity, on photographs with planted ones of known truth at three contrasts, beside a general ridge filter; and how long a whole survey takes.
import { createRequire } from 'node:module';
import { survey } from '../src/core/find/survey.ts';
import type { Raster } from '../src/core/raster/raster.ts';
import { CURVE_CONTRASTS, matchCurves, matchMask, plantCurves } from './curves.ts';
import { meanOf, photograph, PHOTOGRAPHS, randomiser } from './planted.ts';
import { matchSpeck, plantSpecks, SPECK_CONTRASTS } from './specks.ts';

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
const own = new Map<string, Array<{ x: number; y: number }>>();
const centre = (f: { box: { x: number; y: number; width: number; height: number } }) => ({
  x: f.box.x + f.box.width / 2,
  y: f.box.y + f.box.height / 2,
});

for (const name of PHOTOGRAPHS) {
  const clean = await photograph(name);
  const finds = survey(clean, { finders: ['specks'] }).filter((f) => f.score >= 0.5);
  own.set(name, finds.map(centre));
  console.log(`${name.padEnd(26)} as it is: ${finds.length} specks (old prints have dust of their own)`);
}
for (const times of SPECK_CONTRASTS) {
  const scores: number[] = [];
  for (const name of PHOTOGRAPHS) {
    const clean = await photograph(name);
    const { picture, list, owner } = plantSpecks(clean, 120, { times, random });
    const seen = new Set<number>();
    let wrong = 0;
    for (const f of survey(picture, { finders: ['specks'] })) {
      if (f.score < 0.5) continue;
      const m = matchSpeck(f, owner, list, clean.width);
      const c = centre(f);
      if (m >= 0) seen.add(m);
      // What is found in the picture as it is may be dust of its own: neither for nor against.
      else if (!own.get(name)!.some((o) => Math.hypot(o.x - c.x, o.y - c.y) < 4)) wrong++;
    }
    scores.push((2 * seen.size) / (2 * seen.size + wrong + list.length - seen.size));
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
    const finds = survey(picture, { finders: ['curves'] }).filter((f) => f.score >= 0.5);
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
