// npx tsx bench/demo.ts : what is found on the demo's pictures that is a fault, by their clean truth, and what on the truths.
import { survey } from '../src/core/find/survey.ts';
import { rasterise } from '../src/core/mask/shapes.ts';
import { readPicture } from './planted.ts';
import { MOST_FALSE, shown } from './specks.ts';

/** Levels of 255 by which a spoilt place differs from the truth, and share of a find that must be spoilt. */
const SPOILT = 12;
const SHARE = 0.4;

const demo = (name: string) => readPicture(`demo/pictures/${name}.jpg`);
const print = await demo('cottage');
const truth = await demo('cottage-truth');
const spoilt = (p: number) => [0, 1, 2].some((c) => Math.abs(print.data[3 * p + c] - truth.data[3 * p + c]) > SPOILT);
const counts = new Map<string, { good: number; wrong: number }>();
for (const find of shown(survey(print, { finders: ['curves', 'specks'] }))) {
  const { x, y, width } = find.box;
  let [on, off] = [0, 0];
  rasterise(find.shapes, find.box).data.forEach((v, i) => {
    if (!v) return;
    if (spoilt((y + Math.floor(i / width)) * print.width + x + (i % width))) on++;
    else off++;
  });
  const count = counts.get(find.kind) ?? { good: 0, wrong: 0 };
  count[on > SHARE * (on + off) ? 'good' : 'wrong']++;
  counts.set(find.kind, count);
}
for (const [kind, { good, wrong }] of counts) console.log(`${kind} on the demo's print: ${good} true, ${wrong} false`);
const failures: string[] = [];
for (const name of ['cottage-truth', 'garden-truth', 'headland-truth']) {
  const finds = shown(survey(await demo(name), { finders: ['curves', 'specks'] }));
  const specks = finds.filter((f) => f.kind === 'speck').length;
  console.log(`${name}, which is clean: ${specks} specks, ${finds.length - specks} hairs, scratches and wires`);
  if (specks > MOST_FALSE) failures.push(`${specks} specks on ${name}`);
}
console.log(failures.length ? `NOT REACHED: ${failures.join(', ')}` : 'all reached');
process.exitCode = failures.length ? 1 : 0;
