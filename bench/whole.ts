// npm run bench:whole [-- --look DIR] : the whole way on a photograph of 16 megapixels, by the running server as a user goes it: two wires, a
// soft dark disc, a stain, specks and a scratch of known truth are planted, the picture is surveyed, all that is found is taken in, what
// is not found of the large ones is traced or outlined (a tenth too small), all is treated by one press. Each place is compared with its truth: CIEDE2000 after a blur of 1.2 px, mean over the pixels that were over 3 off.
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { TestServer } from '../e2e/server.ts';
import type { PictureState } from '../src/contract/api.ts';
import type { SurveyView } from '../src/contract/survey.ts';
import { distanceTransform } from '../src/core/mask/distance.ts';
import { rasterise, type Point, type Shape } from '../src/core/mask/shapes.ts';
import { blur } from '../src/core/raster/planes.ts';
import { crop, growWithin, type Box, type Raster } from '../src/core/raster/raster.ts';
import { ciede2000, labOf, type Lab } from '../src/core/tone/lab.ts';
import { CLEAN_FITTED, CLEAN_MEASURED, cleanPhotograph } from './photographs.ts';
import { randomiser, readPicture } from './planted.ts';

const args = process.argv.slice(2);
const look = args.includes('--look') ? args[args.indexOf('--look') + 1] : undefined;
if (look) mkdirSync(look, { recursive: true });
const wanted = args.includes('--on') ? args[args.indexOf('--on') + 1] : 'seeding';
const truth = await cleanPhotograph([...CLEAN_FITTED, ...CLEAN_MEASURED].find((c) => c.file.includes(wanted))!);
const { width, height } = truth;
const spoilt: Raster = { ...truth, data: truth.data.slice() };
const random = randomiser(11);
const unit = width / 1000;

/** Lays a tone over pixels of shapes, softened over so many px. */
function plant(shapes: Shape[], soft: number, over: (value: number, channel: number, share: number) => number): void {
  const box = growWithin(rasterBox(shapes), 8 + 2 * Math.ceil(soft), width, height);
  const mask = rasterise(shapes, box).data;
  const inside = distanceTransform(mask, box.width, box.height, 'outside');
  const outside = distanceTransform(mask, box.width, box.height, 'inside');
  for (let y = 0, i = 0; y < box.height; y++)
    for (let x = 0; x < box.width; x++, i++) {
      const d = mask[i] ? inside[i] - 0.5 : 0.5 - outside[i];
      const share = Math.min(1, Math.max(0, 0.5 + d / Math.max(1, soft)));
      if (share <= 0) continue;
      const at = 3 * ((box.y + y) * width + box.x + x);
      for (let c = 0; c < 3; c++) spoilt.data[at + c] = Math.round(over(spoilt.data[at + c], c, share));
    }
}
function rasterBox(shapes: Shape[]): Box {
  const points = shapes.flatMap((s) => ('points' in s ? (s.points as Point[]) : []));
  const size = Math.max(0, ...shapes.map((s) => ('size' in s ? s.size : 0)));
  const [xs, ys] = [points.map((p) => p[0]), points.map((p) => p[1])];
  const [x0, y0] = [Math.max(0, Math.floor(Math.min(...xs) - size)), Math.max(0, Math.floor(Math.min(...ys) - size))];
  return {
    x: x0,
    y: y0,
    width: Math.min(width, Math.ceil(Math.max(...xs) + size)) - x0,
    height: Math.min(height, Math.ceil(Math.max(...ys) + size)) - y0,
  };
}
const line = (from: Point, to: Point, sag: number, size: number): Shape[] => [
  {
    op: 'add',
    kind: 'strand',
    size,
    points: Array.from({ length: 25 }, (_, k): Point => {
      const t = k / 24;
      return [from[0] + (to[0] - from[0]) * t, from[1] + (to[1] - from[1]) * t + sag * 4 * t * (1 - t)];
    }),
  },
];
const disc = (x: number, y: number, radius: number): Shape[] => [
  {
    op: 'add',
    kind: 'outline',
    points: Array.from({ length: 40 }, (_, k): Point => {
      const a = (k / 40) * 2 * Math.PI;
      return [x + radius * Math.cos(a), y + radius * Math.sin(a)];
    }),
  },
];
const opaque = (tone: number) => (v: number, _c: number, share: number) => v + share * (tone - v);
/** Where things are planted, by what they are. */
const places = new Map<string, Box>();
const planted = new Map<string, Shape[]>();
const put = (name: string, shapes: Shape[], soft: number, over: Parameters<typeof plant>[2]) => {
  planted.set(name, shapes);
  plant(shapes, soft, over);
  places.set(name, growWithin(rasterBox(shapes), Math.round(12 * unit), width, height));
};
put('wire', line([0, 0.2 * height], [width, 0.26 * height], 0.05 * height, 1.6 * unit), 2, opaque(28));
put('wire, lower', line([0, 0.62 * height], [width, 0.55 * height], 0.04 * height, 1.2 * unit), 2, opaque(30));
put('soft disc', disc(0.2 * width, 0.08 * height, 12 * unit), 12 * unit, (v, _c, s) => v * (1 - 0.3 * s));
put('stain', disc(0.72 * width, 0.42 * height, 40 * unit), 6, (v, c, s) => v * (1 - s * [0.12, 0.25, 0.45][c]));
put('scratch', line([0.2 * width, 0.3 * height], [0.23 * width, 0.9 * height], 20, 0.7 * unit), 1, opaque(246));
for (let n = 0; n < 40; n++) {
  const at: Point = [width * random(), height * random()];
  const size = (0.8 + 1.6 * random()) * unit;
  put(`speck ${n + 1}`, [{ op: 'add', kind: 'brush', points: [at], size }], 1.5, opaque(248));
}

const server = new TestServer();
await server.start();
const raw = { width, height, channels: 3 as const };
const file = await sharp(spoilt.data as Uint8Array, { raw })
  .png({ compressionLevel: 1 })
  .toBuffer();
const job = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Whole' });
const { id } = await server.json<{ id: string }>(`/jobs/${job.id}/pictures?name=whole.png`, 'POST', file);
const clock = () => performance.now() / 1000;
const wait = () => new Promise((resolve) => setTimeout(resolve, 500));
let started = clock();
await server.json(`/pictures/${id}/survey`, 'POST', {});
let found: SurveyView | null = null;
while (!found) {
  await wait();
  found = await server.json<SurveyView | null>(`/pictures/${id}/survey`);
}
console.log(`${width} × ${height}: surveyed in ${(clock() - started).toFixed(0)} s, ${found.finds.length} finds`);
const chosen = found.finds.filter((f) => f.score >= 0.5 && f.kind !== 'object');
await server.json(`/pictures/${id}/survey/accept`, 'POST', { ids: chosen.map((f) => f.id) });
const state = () => server.json<PictureState>(`/pictures/${id}`);
const inside = (outer: Box, { x, y, width: w, height: h }: Box) =>
  x >= outer.x && y >= outer.y && x + w <= outer.x + outer.width && y + h <= outer.y + outer.height;
/** Long side of a box. */
const long = ({ width: w, height: h }: Box) => Math.max(w, h);
for (const [name, shapes] of planted) {
  const box = places.get(name)!;
  if (name.startsWith('speck') || chosen.some((f) => inside(box, f.box) && long(f.box) > 0.6 * long(box))) continue;
  const [shape] = shapes;
  const points = (shape as { points: Point[] }).points;
  const by = shape.kind === 'strand' ? 'traced' : 'outlined';
  console.log(`${name} is not found: ${by}`);
  if (by === 'traced') {
    const clicks = [points[0], points[12], points[24]];
    await server.json(`/pictures/${id}/trace`, 'POST', { points: clicks });
    continue;
  }
  const middle = [0, 1].map((k) => points.reduce((s, p) => s + p[k], 0) / points.length);
  const small = points.map((p): Point => [middle[0] + 0.9 * (p[0] - middle[0]), middle[1] + 0.9 * (p[1] - middle[1])]);
  const kind = name === 'stain' ? 'stain' : 'object';
  await server.edit(id, { type: 'addFault', kind, shapes: [{ ...shape, points: small }] });
}
const { document } = await state();
started = clock();
await server.json(`/pictures/${id}/treat`, 'POST', { faultIds: document.faults.map((f) => f.id) });
for (;;) {
  await wait();
  const now = await state();
  const treated = now.document.faults.every((f) => f.state !== 'open');
  if (treated && now.statuses.every((s) => s.state === 'shown')) break;
}
console.log(`${document.faults.length} treated in ${(clock() - started).toFixed(0)} s`);
const reply = await fetch(`${server.address}/api/pictures/${id}/export?format=png`);
const done = await readPicture(Buffer.from(await reply.arrayBuffer()));
await server.kill();

function labs(picture: Raster, box: Box): Lab[] {
  const part = crop(picture, box);
  const planes = [0, 1, 2].map((c) =>
    blur(
      Float32Array.from({ length: box.width * box.height }, (_, i) => part.data[i * 3 + c]),
      box.width,
      box.height,
      1.2,
    ),
  );
  return Array.from(planes[0], (_, i) => labOf(planes[0][i], planes[1][i], planes[2][i]));
}
let [missed, worst] = [0, 0];
for (const [name, box] of places) {
  const [a, b, c] = [truth, spoilt, done].map((p) => labs(p, box));
  const before = b.map((v, i) => ciede2000(v, a[i]));
  const after = c.map((v, i) => ciede2000(v, a[i]));
  const off = before.map((v) => v > 3);
  const mean = (list: number[]) => list.reduce((s, v, i) => s + (off[i] ? v : 0), 0) / off.filter(Boolean).length;
  const speck = name.startsWith('speck');
  if (!off.some(Boolean)) continue;
  if (speck && mean(after) > 0.7 * mean(before)) missed++;
  else if (speck) worst = Math.max(worst, mean(after));
  if (!speck) console.log(`${name.padEnd(12)} ${mean(before).toFixed(1)} before, ${mean(after).toFixed(1)} after`);
  if (!look) continue;
  const cut = { left: box.x, top: box.y, width: box.width, height: box.height };
  const views = await Promise.all(
    [spoilt, done, truth].map((p) =>
      sharp(p.data as Uint8Array, { raw })
        .extract(cut)
        .png()
        .toBuffer(),
    ),
  );
  const across = box.width > 2 * box.height;
  const [w, h] = across ? [box.width, 3 * box.height + 8] : [3 * box.width + 8, box.height];
  await sharp({ create: { width: w, height: h, channels: 3, background: '#f0f' } })
    .composite(
      views.map((input, n) => ({
        input,
        left: across ? 0 : n * (box.width + 4),
        top: across ? n * (box.height + 4) : 0,
      })),
    )
    .png()
    .toFile(join(look, `${name.replaceAll(/\W+/g, '-')}.png`));
}
console.log(`specks: ${missed} left, the others at most ${worst.toFixed(1)} after`);
if (look)
  await sharp(done.data as Uint8Array, { raw })
    .resize(1600)
    .png()
    .toFile(join(look, 'whole.png'));
