// npm run bench:demo [-- --look DIR] : the demo's headland and garden, treated by the running server as a user would, place by place
// against their clean truth: CIEDE2000 after a blur of 1.2 px, mean over the pixels that were more than 3 off; and how long the mesh takes.
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { TestServer } from '../e2e/server.ts';
import type { PictureState } from '../src/contract/api.ts';
import { blur } from '../src/core/raster/planes.ts';
import { crop, type Box, type Raster } from '../src/core/raster/raster.ts';
import { ciede2000, labOf, type Lab } from '../src/core/tone/lab.ts';
import { readPicture } from './planted.ts';

const args = process.argv.slice(2);
const look = args.includes('--look') ? args[args.indexOf('--look') + 1] : undefined;
if (look) mkdirSync(look, { recursive: true });

/** Places that are looked at, x, y, width, height. */
const PLACES: Record<string, Record<string, [number, number, number, number]>> = {
  headland: {
    tower: [2010, 470, 200, 260],
    'wires before the sky': [900, 530, 700, 230],
    'wires before a cloud': [1990, 560, 420, 130],
    'dust in a cloud': [2720, 370, 140, 120],
    'pole before clouds': [540, 640, 200, 470],
    'pole before the island': [540, 1000, 200, 160],
    'pole, meadow': [540, 1240, 200, 560],
    'pole’s foot': [560, 1780, 170, 150],
    sign: [2290, 1590, 470, 300],
    litter: [1190, 1870, 620, 220],
  },
  garden: {
    sky: [600, 20, 900, 200],
    hedge: [400, 480, 700, 220],
    slats: [1310, 1000, 690, 260],
    flowers: [400, 1130, 800, 260],
    spray: [120, 1560, 470, 500],
    grass: [900, 1700, 900, 350],
  },
};
/** Outline of the pole with both arms, roughly drawn. */
const POLE: Array<[number, number, number, number]> = [
  [606, 452, 64, 1456],
  [536, 496, 200, 52],
  [536, 598, 200, 42],
];
const STRANDS = [
  [1280, 700, 1638, 1100],
  [1434, 700, 1790, 1100],
  [2070, 700, 1734, 1100],
  [2210, 700, 1879, 1100],
];

const server = new TestServer(undefined, {});
await server.start();
const jobs = await server.json<Array<{ pictures: Array<{ id: string; name: string }> }>>('/jobs');
const idOf = (name: string) => jobs.flatMap((j) => j.pictures).find((p) => p.name === `${name}.jpg`)!.id;
const state = (id: string) => server.json<PictureState>(`/pictures/${id}`);
const post = (id: string, what: string, body: unknown) => server.json(`/pictures/${id}/${what}`, 'POST', body);
async function until(id: string, done: (s: PictureState) => boolean): Promise<PictureState> {
  for (;;) {
    const now = await state(id);
    if (done(now)) return now;
    await new Promise((resolve) => setTimeout(resolve, 1000));
  }
}
const rendered = (s: PictureState) => s.statuses.every((r) => r.state === 'shown');
const treatOpen = async (id: string) => {
  const { document } = await state(id);
  await post(id, 'treat', { faultIds: document.faults.filter((f) => f.state === 'open').map((f) => f.id) });
  await until(id, (s) => s.document.faults.every((f) => f.state !== 'open') && rendered(s));
};

/** Lab of a picture's box, a little blurred. */
function labs(picture: Raster, box: Box): Lab[] {
  const part = crop(picture, box);
  const planes = [0, 1, 2].map((c) =>
    blur(
      Float32Array.from({ length: box.width * box.height }, (_, i) => part.data[i * part.channels + c]),
      box.width,
      box.height,
      1.2,
    ),
  );
  return Array.from(planes[0], (_, i) => labOf(planes[0][i], planes[1][i], planes[2][i]));
}

async function compare(name: string): Promise<void> {
  const reply = await fetch(`${server.address}/api/pictures/${idOf(name)}/export?format=png`);
  const done = await readPicture(Buffer.from(await reply.arrayBuffer()));
  const [spoilt, truth] = await Promise.all([name, `${name}-truth`].map((n) => readPicture(`demo/pictures/${n}.jpg`)));
  for (const [place, [x, y, width, height]] of Object.entries(PLACES[name])) {
    const box = { x, y, width, height };
    const [a, b, c] = [truth, spoilt, done].map((p) => labs(p, box));
    const before = b.map((v, i) => ciede2000(v, a[i]));
    const after = c.map((v, i) => ciede2000(v, a[i]));
    const off = before.map((v) => v > 3);
    const mean = (list: number[]) => list.reduce((s, v, i) => s + (off[i] ? v : 0), 0) / off.filter(Boolean).length;
    const worse = after.filter((v, i) => !off[i] && v > before[i] + 5).length / after.length;
    console.log(
      `${name.padEnd(9)} ${place.padEnd(24)} ${mean(before).toFixed(1).padStart(5)} before, ${mean(after).toFixed(1).padStart(5)} after; made worse by over 5: ${(100 * worse).toFixed(2)} %`,
    );
    if (!look) continue;
    const views = await Promise.all(
      [spoilt, done, truth].map((p) => {
        const part = crop(p, box);
        const raw = { width, height, channels: part.channels as 3 };
        return sharp(Buffer.from(part.data), { raw }).removeAlpha().png().toBuffer();
      }),
    );
    await sharp({ create: { width: 3 * width + 8, height, channels: 3, background: '#f0f' } })
      .composite(views.map((input, n) => ({ input, left: n * (width + 4), top: 0 })))
      .png()
      .toFile(join(look, `${name}-${place.replace(/[^a-z]+/g, '-')}.png`));
  }
}

try {
  const headland = idOf('headland');
  await until(headland, rendered);
  await post(headland, 'edits', {
    type: 'addFault',
    kind: 'object',
    shapes: POLE.map(([x, y, width, height]) => ({ op: 'add', kind: 'box', x, y, width, height })),
  });
  await treatOpen(headland);
  await compare('headland');

  const garden = idOf('garden');
  for (const [a, b, c, d] of STRANDS)
    await post(garden, 'trace', {
      points: [
        [a, b],
        [c, d],
      ],
    });
  const traced = (await state(garden)).document.faults.map((f) => f.id);
  await post(garden, 'mesh', { faultIds: traced });
  await until(garden, (s) => s.document.faults.some((f) => f.kind === 'mesh'));
  const from = performance.now();
  await treatOpen(garden);
  console.log(
    `garden: mesh shown after ${((performance.now() - from) / 1e3).toFixed(0)} s (must 15 on two idle cores)`,
  );
  await compare('garden');
} finally {
  await server.kill();
}
