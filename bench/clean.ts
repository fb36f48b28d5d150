// npx tsx bench/clean.ts : how many specks, hairs, scratches and wires are found on clean photographs that nothing was fitted
// on, and how well specks planted in them are found when everything else that is found counts as false.
import { survey } from '../src/core/find/survey.ts';
import { CLEAN_MEASURED, cleanPhotograph } from './photographs.ts';
import { meanOf, randomiser } from './planted.ts';
import { lookForSpecks, MOST_FALSE, plantSpecks, shown, SPECK_CONTRASTS, speckResult } from './specks.ts';

/** Megapixels at which specks are planted. */
const SMALL = 1.3;

const failures: string[] = [];
for (const photograph of CLEAN_MEASURED) {
  const clean = await cleanPhotograph(photograph);
  const finds = shown(survey(clean, { finders: ['specks', 'curves'] }));
  const specks = finds.filter((f) => f.kind === 'speck').length;
  const megapixels = (clean.width * clean.height) / 1e6;
  console.log(
    `${photograph.name.padEnd(34)} ${megapixels.toFixed(1).padStart(4)} megapixels: ${specks} specks, ${finds.length - specks} hairs, scratches and wires`,
  );
  if (specks > MOST_FALSE) failures.push(`${specks} specks on ${photograph.name}`);
}
const random = randomiser(Number(process.argv[2] ?? 78));
const small = await Promise.all(CLEAN_MEASURED.map((p) => cleanPhotograph(p, SMALL)));
for (const times of SPECK_CONTRASTS) {
  const results = small.map((clean) => {
    const planted = plantSpecks(clean, 120, { times, random });
    return speckResult(shown(lookForSpecks(planted.picture).finds()), planted);
  });
  const f1 = meanOf(results.map((r) => r.f1));
  console.log(
    `specks planted at ${times} σ: F1 ${results.map((r) => r.f1.toFixed(2)).join(' ')}, mean ${f1.toFixed(3)}, ${results.map((r) => r.wrong).join(' ')} false`,
  );
}
console.log(failures.length ? `NOT REACHED: ${failures.join(', ')}` : 'all reached');
process.exitCode = failures.length ? 1 : 0;
