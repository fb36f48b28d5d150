// npm run bench:repair : seconds per megapixel of each method by hand, and how the time of a blend grows with its area, on a
// photograph. Where a general library (opencv-js) has the same operation it is timed in the same run.
import { createRequire } from 'node:module';
import type { Stroke } from '../src/core/mask/strokes.ts';
import { sampleAffine } from '../src/core/raster/affine.ts';
import { crop, type Box } from '../src/core/raster/raster.ts';
import { mapOf, type Donor } from '../src/core/repair/hand/donor.ts';
import { renderRepair } from '../src/core/repair/registry.ts';
import type { RepairSpec } from '../src/core/repair/spec.ts';
import { photograph } from './planted.ts';

const require = createRequire(import.meta.url);
const cv = require('@techstark/opencv-js');
await new Promise<void>((resolve) => (cv.Mat ? resolve() : (cv.onRuntimeInitialized = () => resolve())));

const picture = await photograph('dust-bowl-home', 4200);
const beneath = { width: picture.width, height: picture.height, read: (box: Box) => crop(picture, box) };
const at: [number, number] = [2900, 1500];
const donor = (set: Partial<Donor> = {}): Donor => ({
  from: [1200, 1500],
  at,
  turn: 0,
  scale: 1,
  mirror: 'none',
  travels: true,
  ...set,
});
/** A dab that covers about `megapixels`. */
const dab = (megapixels: number): Stroke[] => [
  {
    points: [[at[0], at[1], 1]],
    size: Math.round(2 * Math.sqrt((megapixels * 1e6) / Math.PI)),
    hardness: 0.9,
    flow: 1,
    opacity: 1,
    spacing: 0.2,
    pressure: 'none',
  },
];
const square = (megapixels: number, x = at[0], y = at[1]) => {
  const side = Math.round(Math.sqrt(megapixels * 1e6));
  return [{ op: 'add' as const, kind: 'box' as const, x: x - side / 2, y: y - side / 2, width: side, height: side }];
};
const still = Array.from({ length: 9 }, (): [number, number] => [0, 0]);

/** Seconds of the quickest of three. */
function seconds(work: () => void): number {
  let best = Infinity;
  for (let n = 0; n < 3; n++) {
    const started = performance.now();
    work();
    best = Math.min(best, (performance.now() - started) / 1000);
  }
  return best;
}
const covered = (spec: RepairSpec): number => {
  const { patch } = renderRepair(beneath, spec);
  let n = 0;
  for (let i = patch.channels - 1; i < patch.data.length; i += patch.channels) if (patch.data[i]) n++;
  return n / 1e6;
};

const MP = 0.5;
const specs: Array<[string, RepairSpec]> = [
  ['copy, as it is', { method: 'copy', strokes: dab(MP), donor: donor() }],
  ['copy, turned 20° at 120 %', { method: 'copy', strokes: dab(MP), donor: donor({ turn: 20, scale: 1.2 }) }],
  ['copy, shrunk to 40 %', { method: 'copy', strokes: dab(MP), donor: donor({ scale: 0.4 }) }],
  ['blend', { method: 'blend', strokes: dab(MP), donor: donor(), avoid: [] }],
  ['patch, exact', { method: 'patch', cover: square(MP), feather: 4, blended: false, donor: donor() }],
  ['patch, blended', { method: 'patch', cover: square(MP), feather: 4, blended: true, donor: donor() }],
  [
    'transplant, turned and bent',
    {
      method: 'transplant',
      piece: square(MP, 1200, 1500),
      feather: 4,
      blended: true,
      donor: donor({ turn: 20 }),
      bend: still.map((p, i) => (i === 4 ? [12, -8] : p)),
    },
  ],
  ['shade', { method: 'shade', strokes: dab(MP), effect: 'tone', stops: 0.3, range: 'shadows', seed: 1 }],
  ['restore grain', { method: 'shade', strokes: dab(MP), effect: 'grain', stops: 0, range: 'all', seed: 1 }],
];
console.log('seconds per megapixel covered');
for (const [name, spec] of specs) {
  const mp = covered(spec);
  console.log(`${name.padEnd(30)} ${(seconds(() => renderRepair(beneath, spec)) / mp).toFixed(2)}`);
}

const box: Box = { x: at[0] - 400, y: at[1] - 400, width: 800, height: 800 };
const map = mapOf([1200, 1500], at, donor({ turn: 20, scale: 1.2 }), false);
const ours = seconds(() => void sampleAffine(beneath.read, beneath, map, box)) / 0.64;
const source = cv.matFromArray(picture.height, picture.width, cv.CV_8UC3, picture.data);
const matrix = cv.matFromArray(2, 3, cv.CV_64FC1, [
  map.a,
  map.b,
  map.a * box.x + map.b * box.y + map.e,
  map.c,
  map.d,
  map.c * box.x + map.d * box.y + map.f,
]);
const out = new cv.Mat();
const theirs =
  seconds(() =>
    cv.warpAffine(
      source,
      out,
      matrix,
      new cv.Size(800, 800),
      cv.INTER_CUBIC | cv.WARP_INVERSE_MAP,
      cv.BORDER_REPLICATE,
    ),
  ) / 0.64;
console.log(
  `\nsampling turned and scaled: ours ${ours.toFixed(2)}, opencv-js warpAffine (cubic) ${theirs.toFixed(2)}; ratio ${(ours / theirs).toFixed(1)}`,
);
for (const mat of [source, matrix, out]) mat.delete();

console.log('\nblend: time by area');
let first = 0;
for (const mp of [0.05, 0.1, 0.2, 0.4, 0.8, 1.6]) {
  const spec: RepairSpec = { method: 'blend', strokes: dab(mp), donor: donor(), avoid: [] };
  const per = seconds(() => renderRepair(beneath, spec)) / mp;
  first ||= per;
  console.log(
    `${mp.toFixed(2).padStart(5)} megapixels: ${per.toFixed(2)} s a megapixel, ${(per / first).toFixed(2)} × that of the smallest`,
  );
}
