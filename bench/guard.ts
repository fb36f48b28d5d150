// npm run bench:guard : small fixed versions of the benches, on packaged photographs and generated pictures, that need no download. Each figure
// has a bound, a little beside what was reached when it was set; .ci/run fails where one is not kept. A bound is changed only in a commit that
// says why.
import { checkPicture } from '../src/core/check/check.ts';
import { meanInside, ssimMap } from '../src/core/check/similarity.ts';
import { completeMesh } from '../src/core/find/strand/mesh/complete-mesh.ts';
import { strandCover } from '../src/core/find/strand/strand-cover.ts';
import { traceStrand } from '../src/core/find/strand/strand.ts';
import { framing } from './guard-framing.ts';
import { join } from '../src/core/join/join.ts';
import type { Point, Shape } from '../src/core/mask/shapes.ts';
import { lumaPlane } from '../src/core/raster/luma.ts';
import { boxOf, crop, type Box, type Raster } from '../src/core/raster/raster.ts';
import { fillRegion } from '../src/core/repair/fill/region.ts';
import { DEFAULT_FILL } from '../src/core/repair/fill/settings.ts';
import { copyPart } from '../src/core/repair/hand/copy.ts';
import { PLAIN_POSE } from '../src/core/repair/hand/donor.ts';
import { dated, renderRepair } from '../src/core/repair/registry.ts';
import type { CopySpec, LiftSpec } from '../src/core/repair/spec.ts';
import { ciede2000, labOf } from '../src/core/tone/lab.ts';
import { openCv } from '../src/codec/open-cv.ts';
import { coverFigures, plantFence, traceTwoOfEach } from './fence.ts';
import { framesOf } from './frames-of.ts';
import { ghostOf } from './ghosts.ts';
import { groundFigures, twoGrounds } from './grounds.ts';
import { blob, coverOf, dust, photograph, randomiser, spoiled, wires } from './planted.ts';
import { lookForSpecks, plantSpecks, shown, speckResult } from './specks.ts';
import { CALM, ghostCases } from './strand.ts';

interface Figure {
  what: string;
  value: number;
  /** at least, or at most */
  bound: { least: number } | { most: number };
}
const figures: Figure[] = [];
const least = (what: string, value: number, least: number) => figures.push({ what, value, bound: { least } });
const most = (what: string, value: number, most: number) => figures.push({ what, value, bound: { most } });
const mean = (list: number[]) => list.reduce((a, b) => a + b, 0) / list.length;

/** Mean colour difference where something is. */
function off(a: Raster, b: Raster, where: ArrayLike<number>): number {
  let [sum, n] = [0, 0];
  for (let i = 0; i < a.width * a.height; i++) {
    if (!where[i]) continue;
    const [p, q] = [a, b].map(({ data }) => labOf(data[3 * i], data[3 * i + 1], data[3 * i + 2]));
    sum += ciede2000(p, q);
    n++;
  }
  return sum / n;
}

/** Strands: how far a traced one is off its centre, and what is left of planted ones after one press. */
async function strands() {
  const picture = await photograph('march-pastoral', 900);
  const line = (t: number): Point => [40 + 800 * t, 120 + 60 * t + 30 * 4 * t * (1 - t)];
  for (let i = 0; i <= 2400; i++) {
    const [x, y] = line(i / 2400);
    for (let v = Math.floor(y) - 2; v <= y + 2; v++)
      picture.data.fill(230, 3 * (v * picture.width + Math.floor(x)), 3 * (v * picture.width + Math.floor(x)) + 3);
  }
  const found = traceStrand(picture, [line(0), line(1)]);
  const at = (x: number) => line((x - 40) / 800)[1];
  most('strand: off its centre, px', mean(found.points.map(([x, y]) => Math.abs(y - at(x)))), 0.1);
  const random = randomiser(3);
  const cases = await ghostCases(CALM.slice(0, 2), false, random);
  most('strand: what is left of four, CIEDE2000', Math.max(...cases.map((c) => ghostOf(c, random).left)), 1.4);
}

/** A fence whose strands grow: what is covered. */
async function mesh() {
  const clean = await photograph('french-alpine-landscape', 1100);
  const fence = plantFence(clean, { random: randomiser(5), tone: 225, half: [1.5, 7], gap: 90 });
  const all = completeMesh(fence.picture, traceTwoOfEach(fence.picture, fence.families, randomiser(6)));
  const cover = coverOf(
    all.flatMap((s) => strandCover(s)),
    clean.width,
    clean.height,
  );
  const { right, recall } = coverFigures(cover, fence, clean.width);
  least('mesh: cover within 6 px of a strand', right, 0.98);
  least('mesh: strands covered', recall, 0.98);
}

async function specks() {
  const clean = await photograph('nagasaki-boats', 900);
  const planted = plantSpecks(clean, 60, { times: 10, random: randomiser(2) });
  least('specks: F1', speckResult(shown(lookForSpecks(planted.picture).finds()), planted).f1, 0.76);
}

/** Thin fills: how near they come to what was there. */
async function thin() {
  for (const [name, shapes, bound] of [
    ['wires', wires, 0.83],
    ['dust', dust, 0.9],
  ] as const) {
    const truth = await photograph('dust-bowl-home', 640);
    const cover = coverOf(shapes(truth.width, truth.height), truth.width, truth.height);
    const { picture } = fillRegion({ picture: spoiled(truth, cover), cover }, { ...DEFAULT_FILL, style: 'faithful' });
    const { width, height } = truth;
    least(
      `thin fill, ${name}: SSIM`,
      meanInside(ssimMap(lumaPlane(truth), lumaPlane(picture), width, height), cover),
      bound,
    );
  }
}

/** A wide fill where two grounds meet. */
async function wide() {
  const [planted] = await twoGrounds(100);
  const { truth, cover } = planted;
  const { picture } = fillRegion({ picture: spoiled(truth, cover), cover }, { ...DEFAULT_FILL, style: 'first' });
  const { right, mixed } = groundFigures(planted, picture.data, 100);
  least('wide fill: right ground, %', right, 98);
  most('wide fill: tone of neither ground, %', mixed, 4.5);
}

/** A stain that is lifted. */
async function lift() {
  const truth = await photograph('dust-bowl-home', 900);
  const { width, height } = truth;
  const [cx, cy, r] = [420, 150, 70];
  const spoilt: Raster = { ...truth, data: truth.data.slice() };
  const inside = new Uint8Array(width * height);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      const share = Math.min(1, Math.max(0, 0.5 - (Math.hypot(x - cx, y - cy) - r) / 6));
      if (!share) continue;
      inside[i] = 1;
      [0.7, 0.66, 0.55].forEach((g, c) => (spoilt.data[3 * i + c] *= 1 - share * (1 - g)));
    }
  const cover: Shape[] = [
    {
      op: 'add',
      kind: 'outline',
      points: Array.from({ length: 60 }, (_, k): Point => [
        cx + (r + 3) * Math.cos(k / 9.55),
        cy + (r + 3) * Math.sin(k / 9.55),
      ]),
    },
  ];
  const spec = dated<LiftSpec>({ method: 'lift', cover, amount: 1, avoid: [] });
  const { patch } = renderRepair({ width, height, read: (box) => crop(spoilt, box) }, spec);
  const after: Raster = { ...spoilt, data: spoilt.data.slice() };
  for (let v = 0; v < patch.height; v++)
    for (let u = 0; u < patch.width; u++) {
      const from = 4 * (v * patch.width + u);
      const to = 3 * ((patch.y + v) * width + patch.x + u);
      if (patch.data[from + 3]) for (let c = 0; c < 3; c++) after.data[to + c] = patch.data[from + c];
    }
  most('lift: left of a stain, share of its CIEDE2000', off(after, truth, inside) / off(spoilt, truth, inside), 0.1);
}

/** What checks say of a flat patch, of leftovers and of the truth. */
async function check() {
  const whole = await photograph('march-pastoral');
  const truth = crop(whole, { x: 60, y: 260, width: 340, height: 300 });
  const cover = coverOf(blob(170, 150, 40), truth.width, truth.height);
  const kinds = (after: Raster) => checkPicture({ after }, cover, { longSide: 1600 }).map((f) => f.kind);
  const flat: Raster = { ...truth, data: truth.data.slice() };
  cover.forEach((v, i) => v && flat.data.fill(128, 3 * i, 3 * i + 3));
  least('check: a flat grey patch is told', kinds(flat).length ? 1 : 0, 1);
  most('check: findings in the truth', kinds(truth).length, 0);
}

/** Two frames taken from one photograph, joined. */
async function joined() {
  const { frames } = framesOf(await photograph('nagasaki-boats', 1500), randomiser(8), 2, 640);
  const { cv } = await openCv();
  const made = join(
    cv,
    frames.map((f) => f.raster),
    {},
  );
  most('join: px that matches are off', made.error, 0.1);
  most('join: frames left out', made.left.length, 0);
}

/** A stroke as it is previewed, in a part of it, and as it is delivered: the same bytes. */
async function strokes() {
  const picture = await photograph('black-canyon', 700);
  const spec = dated<CopySpec>({
    method: 'copy',
    strokes: [
      {
        points: [
          [200, 300, 1],
          [330, 340, 1],
        ],
        size: 40,
        hardness: 0.6,
        flow: 0.7,
        opacity: 1,
        pressure: 'none',
        spacing: 0.2,
      },
    ],
    donor: { ...PLAIN_POSE, turn: 12, from: [120, 160], at: [200, 300], travels: true },
  });
  const beneath = { ...boxOf(picture), read: (box: Box) => crop(picture, box) };
  const { patch } = renderRepair(beneath, spec);
  const part = copyPart(beneath, spec, { x: 230, y: 290, width: 60, height: 40 });
  let differ = 0;
  for (let y = part.y; y < part.y + part.height; y++)
    for (let x = part.x; x < part.x + part.width; x++)
      for (let c = 0; c < 4; c++)
        if (
          part.data[4 * ((y - part.y) * part.width + x - part.x) + c] !==
          patch.data[4 * ((y - patch.y) * patch.width + x - patch.x) + c]
        )
          differ++;
  least('stroke: samples that are covered', patch.data.filter((v, i) => i % 4 === 3 && v > 0).length, 5000);
  most('stroke: samples of its preview that differ', differ, 0);
}

const started = performance.now();
for (const measure of [strands, mesh, specks, thin, wide, lift, check, joined, strokes, () => framing(least, most)])
  await measure();
const missed = figures.filter(({ value, bound }) => !('least' in bound ? value >= bound.least : value <= bound.most));
for (const f of figures) {
  const bound = 'least' in f.bound ? `at least ${f.bound.least}` : `at most ${f.bound.most}`;
  console.log(
    `${missed.includes(f) ? 'DROPPED' : 'kept   '} ${f.what.padEnd(52)} ${f.value.toFixed(3).padStart(8)}  (${bound})`,
  );
}
console.log(
  `guard: ${figures.length - missed.length} kept, ${missed.length} dropped, ${((performance.now() - started) / 1000).toFixed(0)} s`,
);
process.exitCode = missed.length ? 1 : 0;
