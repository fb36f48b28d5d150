// npm run bench:check-speed : how long checks take, bundled as the application is: 200 repairs on 14 megapixels, on one thread and shared by two at once, and one of
// 300 px: its checks alone, and all that the server does for a fill, which looks for the fault's soft edge as well. Medians.
import { spawn } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { checkPicture, signsOf } from '../src/core/check/check.ts';
import { placeOf } from '../src/core/check/place.ts';
import { signsOfRepair } from '../src/core/check/repair.ts';
import { beneathOf } from '../src/core/chain/chain.ts';
import { rasterise } from '../src/core/mask/shapes.ts';
import { emptyPatch } from '../src/core/raster/patch.ts';
import { crop } from '../src/core/raster/raster.ts';
import { DEFAULT_FILL } from '../src/core/repair/fill/settings.ts';
import type { FillSpec } from '../src/core/repair/spec.ts';
import { blob, photograph, randomiser } from './planted.ts';

const picture = await photograph('dust-bowl-home', 4350);
const { width, height } = picture;
const random = randomiser(5);
type Spot = [x: number, y: number, radius: number];
const cover = (spots: Spot[], within = { x: 0, y: 0, width, height }) =>
  rasterise(
    spots.flatMap(([x, y, radius]) => blob(x, y, radius)),
    within,
  ).data.map((v) => (v ? 1 : 0));
const places = Array.from({ length: 200 }, (): Spot => {
  const radius = 6 + 44 * random() ** 2;
  return [80 + random() * (width - 160), 80 + random() * (height - 160), radius];
});
const one = cover([[width / 2, height / 2, 136]]);
const box = { x: Math.round(width / 2) - 170, y: Math.round(height / 2) - 170, width: 340, height: 340 };

/** Every other one of the repairs, checked as the server's threads do, a repair at a time. */
function half(part: number): number {
  const what = cover(places).map((v) => 2 * v);
  const boxes = places.map(([x, y, r]) => ({
    x: Math.max(0, Math.floor(x - 1.4 * r)),
    y: Math.max(0, Math.floor(y - 1.4 * r)),
    width: Math.ceil(2.8 * r),
    height: Math.ceil(2.8 * r),
  }));
  const from = performance.now();
  let looked = 0;
  boxes.forEach((b, n) => {
    if (n % 2 !== part) return;
    const own = cover([places[n]], b);
    for (let y = 0, i = 0; y < b.height; y++)
      for (let x = 0; x < b.width; x++, i++) if (own[i]) what[(b.y + y) * width + b.x + x] = 1;
    const place = placeOf({ after: picture }, what, b);
    looked += place.bands.length;
    signsOf(place);
    for (let y = 0, i = 0; y < b.height; y++)
      for (let x = 0; x < b.width; x++, i++) if (own[i]) what[(b.y + y) * width + b.x + x] = 2;
  });
  if (looked < places.length / 2) throw new Error('not all places were looked at');
  return performance.now() - from;
}

const part = process.argv.indexOf('--part');
if (part >= 0) {
  signsOf(placeOf({ after: picture }, one, box));
  console.log(half(Number(process.argv[part + 1])));
  process.exit();
}

checkPicture({ after: picture }, one);
/** ms that something takes, the median of many times once it has been done often. */
function median(what: () => void): number {
  for (let n = 0; n < 8; n++) what();
  const times = Array.from({ length: 15 }, () => {
    const from = performance.now();
    what();
    return performance.now() - from;
  });
  return times.sort((a, b) => a - b)[7];
}
const alone = median(() => signsOf(placeOf({ after: picture }, one, box)));
const shapes = blob(width / 2, height / 2, 136);
const patch = emptyPatch(box, picture);
const [under, covered] = [crop(picture, box), cover([[width / 2, height / 2, 136]], box)];
for (let i = 0, p = 0; i < covered.length; i++, p += 4) {
  for (let c = 0; c < 3; c++) patch.data[p + c] = under.data[i * under.channels + c];
  patch.data[p + 3] = 255 * covered[i];
}
const none = { donorArea: [], barred: [], avoid: [], margin: 0, feather: 0 };
const spec: FillSpec = { ...DEFAULT_FILL, ...none, method: 'fill', cover: shapes };
const fill = median(() => signsOfRepair(beneathOf(picture, [], spec), spec, patch));
let from: number;
/** What a product added to a sum takes here, ns: machines differ, and one that is shared differs from hour to hour. */
function pace(): number {
  const list = Float32Array.from({ length: 1000 }, random);
  let sum = 0;
  const from = performance.now();
  for (let n = 0; n < 20_000; n++) for (let k = 0; k < 1000; k++) sum += list[k] * list[k];
  return sum > 0 ? (performance.now() - from) / 20 : NaN;
}
pace();
const step = pace();
// Of what repeats to the pixel all around, as screens and rendered weaves do, every place is a copy of a thousand others.
const woven = { ...picture, data: picture.data.slice() };
for (let y = 0, i = 0; y < height; y++)
  for (let x = 0; x < width; x++) {
    const tone = 120 + (((x * 7349 + y * 9151) * 2654435761) >>> 28) + 6 * Math.sin(x / 9 + y / 5);
    for (let c = 0; c < picture.channels; c++) woven.data[i++] = tone;
  }
from = performance.now();
signsOf(placeOf({ after: woven }, one, box));
const repeating = performance.now() - from;
const many = cover(places);
from = performance.now();
const found = checkPicture({ after: picture }, many).length;
const all = (performance.now() - from) / 1e3;
const halves = await Promise.all(
  [0, 1].map(
    (n) =>
      new Promise<number>((resolve, reject) => {
        const args = [...process.execArgv, fileURLToPath(import.meta.url), '--part', String(n)];
        const child = spawn(process.execPath, args, { stdio: ['ignore', 'pipe', 'inherit'] });
        let said = '';
        child.stdout.on('data', (chunk: Buffer) => (said += chunk.toString()));
        child.on('exit', (code) => (code ? reject(new Error(`ended with ${code}`)) : resolve(Number(said) / 1e3)));
      }),
  ),
);
const two = Math.max(...halves);
console.log(
  `${((width * height) / 1e6).toFixed(1)} megapixels, 200 repairs: one thread ${all.toFixed(1)} s (${found} findings), two at once ${two.toFixed(1)} s (must 5 s); one of 300 px ${alone.toFixed(0)} ms (must 150; ${fill.toFixed(0)} with all that is done for a fill), where a product added to a sum takes ${step.toFixed(1)} ns, on ground that repeats to the pixel ${(repeating / alone).toFixed(1)} times that`,
);
if (two > 5 || alone > 150) process.exitCode = 1;
