// npm run bench:layouts [-- SIZE] [--only NAME] [--look DIR] : wide covers over two grounds and over regular structure, SIZE px across
// (160 by default), against the truth. What must be reached is said beside it.
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { fillRegion } from '../src/core/repair/fill/region.ts';
import { DEFAULT_FILL } from '../src/core/repair/fill/settings.ts';
import { edgesFound, groundFigures, structures, twoGrounds, type Planted } from './grounds.ts';
import { meanOf, spoiled } from './planted.ts';

const args = process.argv.slice(2);
const optionOf = (name: string) => (args.includes(name) ? args[args.indexOf(name) + 1] : undefined);
const size = Number(args.find((a) => /^\d+$/.test(a)) ?? 160);
const only = optionOf('--only');
const look = optionOf('--look');
if (look) mkdirSync(look, { recursive: true });

/** Truth and fill side by side. */
async function keep({ name, truth }: Planted, data: ArrayLike<number>): Promise<void> {
  if (!look) return;
  const { width, height } = truth;
  const w = Math.min(width, Math.round(1.7 * size));
  const h = Math.min(height, w);
  const part = (pixels: ArrayLike<number>) =>
    sharp(Uint8Array.from(pixels), { raw: { width, height, channels: 3 } })
      .extract({ left: (width - w) >> 1, top: (height - h) >> 1, width: w, height: h })
      .png()
      .toBuffer();
  await sharp({ create: { width: 2 * w + 4, height: h, channels: 3, background: '#f0f' } })
    .composite([
      { input: await part(truth.data), left: 0, top: 0 },
      { input: await part(data), left: w + 4, top: 0 },
    ])
    .png()
    .toFile(join(look, `${name.replace(/[^a-zà-ž]+/gi, '-')}-${size}.png`));
}

function fill({ truth, cover }: Planted) {
  const from = process.cpuUsage();
  const { picture, reason } = fillRegion({ picture: spoiled(truth, cover), cover }, DEFAULT_FILL);
  const { user, system } = process.cpuUsage(from);
  return { data: picture.data, reason, seconds: (user + system) / 1e6 };
}

const failures: string[] = [];
const must = (ok: boolean, what: string) => ok || failures.push(what);
const shown = (n: number) => n.toFixed(1).padStart(6);
const wanted = (planted: Planted[]) => planted.filter((p) => !only || p.name.includes(only));

console.log(`two grounds, ${size} px across: right ground %, mixed tone %, border error (px at 160)`);
const grounds: Array<[right: number, mixed: number, border: number]> = [];
for (const planted of wanted(await twoGrounds(size))) {
  const { data, reason, seconds } = fill(planted);
  const { right, mixed, border } = groundFigures(planted, data, size);
  const truth = groundFigures(planted, planted.truth.data, size);
  grounds.push([right, mixed, border]);
  console.log(
    `  ${planted.name.padEnd(22)} ${shown(right)} ${shown(mixed)} ${shown(border)}   truth ${shown(truth.right)} ${shown(truth.mixed)} ${shown(truth.border)}   ${seconds.toFixed(1)} s  ${reason}`,
  );
  must(right >= 90 && mixed <= 10 && border <= 15, planted.name);
  await keep(planted, data);
}
if (grounds.length) {
  const [right, mixed, border] = [0, 1, 2].map((k) => meanOf(grounds.map((g) => g[k])));
  console.log(
    `  mean                   ${shown(right)} ${shown(mixed)} ${shown(border)}   must 97, 5, 7; aim 99, 3, 3`,
  );
  must(right >= 97 && mixed <= 5 && border <= 7, 'two grounds on average');
}

console.log(`regular structure, ${size} px across: edges of the truth found within 2 px (at 160) %`);
const edges: number[] = [];
for (const planted of wanted(structures(size))) {
  const { data, reason, seconds } = fill(planted);
  const found = edgesFound(planted, data, size);
  edges.push(found);
  console.log(`  ${planted.name.padEnd(22)} ${shown(found)}   ${seconds.toFixed(1)} s  ${reason}`);
  must(found >= 75, planted.name);
  await keep(planted, data);
}
if (edges.length) {
  console.log(`  mean                   ${shown(meanOf(edges))}   must 92; aim 96`);
  must(meanOf(edges) >= 92, 'regular structure on average');
}
console.log(failures.length ? `NOT REACHED: ${failures.join(', ')}` : 'all reached');
process.exitCode = failures.length ? 1 : 0;
