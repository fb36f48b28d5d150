// npm run bench:plain [SEED] : of specks and scratches planted in clean photographs that are plain at delivery, over three times the least
// visible on a print of 300 mm, how many are found at the usual sensitivity; by whether their ground is even or busy.
import { survey } from '../src/core/find/survey.ts';
import { rasterise } from '../src/core/mask/shapes.ts';
import { boxMean, lumaPlane } from '../src/core/raster/luma.ts';
import type { Raster } from '../src/core/raster/raster.ts';
import { usualDistance, visibilityOf } from '../src/core/frame/visibility.ts';
import { ciede2000, labOf, type Lab } from '../src/core/tone/lab.ts';
import { plantCurves } from './curves.ts';
import { CLEAN_MEASURED, cleanPhotograph } from './photographs.ts';
import { randomiser, readPicture } from './planted.ts';
import { plantSpecks, shown } from './specks.ts';

/** Long side of the print, mm, and how many times the least visible is plain. */
const LONG_SIDE = 300;
const PLAIN = 3;
/** Levels by which even ground deviates at the most. */
const EVEN = 8;
/** Megapixels at which things are planted, and how many. */
const SIZE = 2;
const SPECKS = 160;
const SCRATCHES = 14;
/** Share of a planted thing that finds have to cover. */
const FOUND = 0.5;

interface Planted {
  kind: 'specks' | 'scratches';
  even: boolean;
  found: boolean;
}

const labAt = ({ data }: Raster, i: number): Lab => labOf(data[3 * i], data[3 * i + 1], data[3 * i + 2]);

/** Plants, surveys and compares. */
function look(clean: Raster, random: () => number): Planted[] {
  const { width, height } = clean;
  const viewing = { longSideMm: LONG_SIDE, distanceMm: usualDistance(LONG_SIDE) };
  const luma = lumaPlane(clean);
  const plane = (data: Float32Array) => boxMean({ width, height, data }, 12).data;
  const mean = plane(luma);
  const square = plane(luma.map((v) => v * v));
  const times = () => 5 + 10 * random();
  const dusty = plantSpecks(clean, SPECKS, { times, random });
  const both = plantCurves(dusty.picture, SCRATCHES, { times: () => 3 + 5 * random(), random });
  const { picture } = both;
  const cover = new Uint8Array(width * height);
  for (const f of shown(survey(picture))) {
    if (f.kind === 'object') continue;
    const mask = rasterise(f.shapes, f.box);
    mask.data.forEach((v, k) => {
      if (v) cover[(mask.y + Math.floor(k / mask.width)) * width + mask.x + (k % mask.width)] = 1;
    });
  }
  const judged = (kind: Planted['kind'], pixels: number[], along: number): Planted[] => {
    if (!pixels.length) return [];
    let [difference, covered, deviation] = [0, 0, 0];
    for (const i of pixels) {
      difference += ciede2000(labAt(picture, i), labAt(clean, i));
      covered += cover[i];
      deviation += Math.sqrt(Math.max(0, square[i] - mean[i] ** 2));
    }
    const n = pixels.length;
    const size = { acrossPx: n / along, alongPx: along, difference: difference / n };
    if (visibilityOf(size, Math.max(width, height), viewing).times < PLAIN) return [];
    return [{ kind, even: deviation / n < EVEN, found: covered >= FOUND * n }];
  };
  const bySpeck = dusty.list.map(() => [] as number[]);
  dusty.owner.forEach((o, i) => o && both.near[i] >= 2 && bySpeck[o - 1].push(i));
  const specks = bySpeck.flatMap((pixels, n) => judged('specks', pixels, 2 * dusty.list[n].rx));
  const scratches = both.lines.flatMap((line) => {
    const pixels = new Set(line.map(([x, y]) => Math.floor(y) * width + Math.floor(x)));
    return judged('scratches', [...pixels], line.length);
  });
  return [...specks, ...scratches];
}

const random = randomiser(Number(process.argv[2] ?? 5));
const all: Planted[] = [];
const told = (list: Planted[]) => `${list.filter((p) => p.found).length} of ${list.length}`;
const pictures = [
  ...CLEAN_MEASURED.map(({ name }, n) => ({ name, read: () => cleanPhotograph(CLEAN_MEASURED[n], SIZE) })),
  ...['cottage', 'headland', 'garden'].map((n) => ({
    name: `${n}, clean`,
    read: () => readPicture(`demo/pictures/${n}-truth.jpg`),
  })),
];
for (const { name, read } of pictures) {
  const list = look(await read(), random);
  all.push(...list);
  const part = (kind: Planted['kind'], even: boolean) => told(list.filter((p) => p.kind === kind && p.even === even));
  console.log(
    `${name.padEnd(36)} specks ${part('specks', true).padStart(10)} on even ground, ${part('specks', false).padStart(10)} on busy; scratches ${part('scratches', true)}, ${part('scratches', false)}`,
  );
}
for (const kind of ['specks', 'scratches'] as const)
  for (const even of [true, false]) {
    const list = all.filter((p) => p.kind === kind && p.even === even);
    const share = (100 * list.filter((p) => p.found).length) / list.length;
    console.log(`${kind} on ${even ? 'even' : 'busy'} ground: ${told(list)}, ${share.toFixed(1)} % (must 98)`);
  }
