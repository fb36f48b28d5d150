// npm run bench:growth : how the cost of one fault grows with the picture, and what a mesh over 8 megapixels takes.
import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { blob, coverOf, mesh, photograph, spoiled } from './planted.ts';

const folder = mkdtempSync(join(tmpdir(), 'tersum-growth-'));
const run = async (args: string[]) => {
  const child = spawn(process.execPath, ['scripts/tersum.mjs', ...args], { stdio: ['ignore', 'pipe', 'inherit'] });
  let said = '';
  let peak = 0;
  child.stdout.on('data', (d: Buffer) => (said += d.toString()));
  const watch = setInterval(() => {
    try {
      peak = Math.max(peak, Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${child.pid}/status`, 'utf8'))?.[1] ?? 0));
    } catch {
      // It has just ended.
    }
  }, 20);
  await new Promise((resolve) => child.on('exit', resolve));
  clearInterval(watch);
  const line = JSON.parse(said.trim().split('\n').at(-1)!) as { seconds: { fill: number }; peakMegabytes: number };
  return { seconds: line.seconds.fill, megabytes: Math.max(line.peakMegabytes, peak / 1024) };
};
const grey = (data: Uint8Array, width: number, height: number) =>
  sharp(
    data.map((v) => v * 255),
    { raw: { width, height, channels: 1 } },
  ).png({ compressionLevel: 1 });

/** The photograph, laid out side by side until the picture has the wanted size, with one blob in its first copy. */
async function tiled(width: number, height: number) {
  const one = await photograph('march-pastoral');
  const data = new Uint8Array(width * height * 3);
  for (let y = 0; y < height; y++) {
    const row = one.data.subarray((y % one.height) * one.width * 3, ((y % one.height) + 1) * one.width * 3);
    for (let x = 0; x < width; x += one.width) {
      data.set(row.subarray(0, Math.min(one.width, width - x) * 3) as Uint8Array, (y * width + x) * 3);
    }
  }
  return { width, height, channels: 3 as const, depth: 8 as const, data };
}

const failures: string[] = [];
const times: number[] = [];
for (const [mp, width, height] of [
  [2, 1732, 1155],
  [8, 3464, 2310],
  [32, 6928, 4619],
] as const) {
  const truth = await tiled(width, height);
  const cover = coverOf(blob(500, 500, 60), width, height);
  const [picture, mask] = [join(folder, `${mp}.png`), join(folder, `${mp}-mask.png`)];
  await sharp(spoiled(truth, cover).data as Uint8Array, { raw: { width, height, channels: 3 } })
    .png({ compressionLevel: 1 })
    .toFile(picture);
  await grey(cover, width, height).toFile(mask);
  const all = [];
  for (let n = 0; n < 3; n++)
    all.push((await run(['fill', '--picture', picture, '--mask', mask, '--out', join(folder, 'out.png')])).seconds);
  times.push(Math.min(...all));
  console.log(`the same blob in ${mp} megapixels: ${times.at(-1)!.toFixed(2)} s`);
}
const ratio = Math.max(...times) / Math.min(...times);
console.log(`longest over shortest: ${ratio.toFixed(2)} (must be under 1.5)`);
if (ratio >= 1.5) failures.push('growth');

const truth = await tiled(3464, 2310);
const cover = coverOf(mesh(truth.width, truth.height), truth.width, truth.height);
const [picture, mask] = [join(folder, 'mesh.png'), join(folder, 'mesh-mask.png')];
await sharp(spoiled(truth, cover).data as Uint8Array, {
  raw: { width: truth.width, height: truth.height, channels: 3 },
})
  .png({ compressionLevel: 1 })
  .toFile(picture);
await grey(cover, truth.width, truth.height).toFile(mask);
const meshed = await run(['fill', '--picture', picture, '--mask', mask, '--out', join(folder, 'out.png')]);
console.log(
  `mesh over 8 megapixels: ${meshed.seconds.toFixed(1)} s, at most ${meshed.megabytes.toFixed(0)} MB (must be under 700)`,
);
if (meshed.megabytes >= 700) failures.push('memory');
console.log(failures.length ? `NOT REACHED: ${failures.join(', ')}` : 'all reached');
process.exitCode = failures.length ? 1 : 0;
