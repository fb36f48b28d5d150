// npm run bench:stretch [-- --seams] [--look DIR] : the background of photographs drawn out on both sides of a guarded middle: bits of what is
// guarded, how far planted straight horizontals move, grain beside that of the photograph, and the time beside one resizing as a whole
// by a general-purpose library in the same run. What is guarded was chosen once for all: the middle third, from a quarter down.
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { lumaPlane, quantile } from '../src/core/raster/luma.ts';
import { blur } from '../src/core/raster/planes.ts';
import { boxOf, createRaster, crop, paste, type Box, type Raster } from '../src/core/raster/raster.ts';
import { compositeOver } from '../src/core/raster/patch.ts';
import { renderRepair } from '../src/core/repair/registry.ts';
import type { StretchSpec } from '../src/core/repair/spec.ts';
import { CLEAN_MEASURED, cleanPhotograph } from './photographs.ts';
import { meanOf, readPicture } from './planted.ts';

const args = process.argv.slice(2);
const way = args.includes('--seams') ? ('seams' as const) : ('smooth' as const);
const look = args.includes('--look') ? args[args.indexOf('--look') + 1] : undefined;
if (look) mkdirSync(look, { recursive: true });
sharp.concurrency(1);

/** Shares of the width that are added at the left and at the right, one pair for each photograph in turn. */
const ADDED = [
  [0.1, 0.1],
  [0.15, 0],
  [0, 0.2],
  [0.16, 0.16],
] as const;

function stretched(picture: Raster, onto: Box, guard: Box | null): Raster {
  const spec: StretchSpec = {
    method: 'stretch',
    from: boxOf(picture),
    onto,
    guard: guard ? [{ op: 'add', kind: 'box', ...guard }] : [],
    way,
  };
  const { patch } = renderRepair({ ...boxOf(picture), read: (box) => crop(picture, box) }, spec);
  const out = createRaster(onto.width, onto.height, picture.channels, picture.depth);
  paste(picture, out, { ...boxOf(picture), x: -onto.x, y: -onto.y });
  compositeOver(out, onto, patch, 1);
  return out;
}

/** Samples of a box that differ between a picture and one on a canvas. */
function differing(a: Raster, b: Raster, box: Box, onto: Box): number {
  const [one, other] = [crop(a, box).data, crop(b, { ...box, x: box.x - onto.x, y: box.y - onto.y }).data];
  let n = 0;
  for (let i = 0; i < one.length; i++) if (one[i] !== other[i]) n++;
  return n;
}

const TILE = 32;
/** Size of grain in the plainer half of the tiles of a part: lower quartile of their usual detail, levels. */
function grainOf(picture: Raster, box: Box): number {
  const luma = lumaPlane(crop(picture, box));
  const soft = blur(luma, box.width, box.height, 2);
  const sizes: number[] = [];
  for (let y = 0; y + TILE <= box.height; y += TILE)
    for (let x = 0; x + TILE <= box.width; x += TILE) {
      const list: number[] = [];
      for (let v = 0; v < TILE; v += 2)
        for (let u = 0; u < TILE; u += 2) {
          const i = (y + v) * box.width + x + u;
          list.push(Math.abs(luma[i] - soft[i]));
        }
      sizes.push(quantile(list, 0.5));
    }
  return quantile(sizes, 0.25);
}

/** Rows on which dark lines are laid, as shares of the height. */
const LINES = [0.15, 0.5, 0.85];
function lined(picture: Raster): Raster {
  const out = { ...picture, data: picture.data.slice() };
  const row = picture.width * picture.channels;
  for (const t of LINES) {
    const y = Math.round(t * picture.height);
    // Nothing dark of the picture's own is near.
    out.data.fill(180, (y - 10) * row, (y + 11) * row);
    out.data.fill(0, (y - 1) * row, (y + 2) * row);
  }
  return out;
}

/** How far the lines lie from where they were, px, at most: the middle of what is dark in every 50th column. */
function bent(picture: Raster, height: number): number {
  const luma = lumaPlane(picture);
  let most = 0;
  for (const t of LINES) {
    const at = Math.round(t * height);
    for (let x = 2; x < picture.width; x += 50) {
      let [sum, weight] = [0, 0];
      for (let y = at - 8; y <= at + 8; y++) {
        const w = Math.max(0, 12 - luma[y * picture.width + x]);
        sum += w * y;
        weight += w;
      }
      if (weight > 24) most = Math.max(most, Math.abs(sum / weight - at));
    }
  }
  return most;
}

const grains: number[] = [];
const plain: number[] = [];
let [bits, line, slowest, unguarded] = [0, 0, 0, 0];
for (const [n, { file }] of CLEAN_MEASURED.entries()) {
  const picture = await cleanPhotograph(CLEAN_MEASURED[n]);
  const { width, height } = picture;
  const [left, right] = ADDED[n % ADDED.length].map((s) => Math.round(s * width));
  const onto = { x: -left, y: 0, width: width + left + right, height };
  const guard = {
    x: Math.round(width / 3),
    y: Math.round(height / 4),
    width: Math.round(width / 3),
    height: Math.round(0.7 * height),
  };
  const started = performance.now();
  const out = stretched(picture, onto, guard);
  const seconds = (performance.now() - started) / 1000;
  const raw = { width, height, channels: 3 as const };
  const before = performance.now();
  const resized = await readPicture(
    await sharp(picture.data as Uint8Array, { raw })
      .resize(onto.width, height, { fit: 'fill', kernel: 'cubic' })
      .png({ compressionLevel: 0 })
      .toBuffer(),
  );
  const reference = (performance.now() - before) / 1000;
  const wrong = differing(picture, out, guard, onto);
  const away = bent(stretched(lined(picture), onto, guard), height);
  const side = left >= right ? 'left' : 'right';
  const room = guard.x - 16;
  const own = { x: side === 'left' ? 0 : width - room, y: 0, width: room, height };
  const wide = room + (side === 'left' ? left : right);
  const drawn = { x: side === 'left' ? 0 : onto.width - wide, y: 0, width: wide, height };
  const was = grainOf(picture, own);
  const grain = grainOf(out, drawn) / was;
  const soft = grainOf(resized, drawn) / was;
  const free = differing(picture, stretched(picture, onto, null), guard, onto) / (3 * guard.width * guard.height);
  const megapixels = (onto.width * height) / 1e6;
  bits += wrong;
  line = Math.max(line, away);
  // What each picture costs at all would be counted many times over with small ones.
  if (megapixels >= 12) slowest = Math.max(slowest, (14 * seconds) / megapixels);
  // A photograph without grain in its plain parts has none to keep.
  if (was > 0.3) {
    grains.push(grain);
    plain.push(soft);
  }
  unguarded += free / CLEAN_MEASURED.length;
  console.log(
    `${file.split('/').pop()!.slice(0, 26).padEnd(26)} ${megapixels.toFixed(1).padStart(5)} MP, ${left} + ${right} px: ${wrong} guarded samples differ, lines off by ${away.toFixed(2)} px, ${was > 0.3 ? `grain ${grain.toFixed(2)} (resized as a whole ${soft.toFixed(2)})` : 'no grain'}, ${seconds.toFixed(1)} s, ${(seconds / reference).toFixed(1)} times one resizing`,
  );
  if (look)
    await sharp(out.data as Uint8Array, { raw: { width: onto.width, height, channels: 3 } })
      .resize(1600)
      .png()
      .toFile(join(look, `${n}.png`));
}
console.log(
  `guarded samples that differ: ${bits} (must 0); without a guard ${Math.round(100 * unguarded)} % of them do`,
);
console.log(`straight horizontals off by ${line.toFixed(2)} px at most (must 1)`);
console.log(
  `grain ${meanOf(grains).toFixed(2)} of the photograph’s, ${Math.min(...grains).toFixed(2)} to ${Math.max(...grains).toFixed(2)}; resized as a whole ${meanOf(plain).toFixed(2)}, ${Math.min(...plain).toFixed(2)} to ${Math.max(...plain).toFixed(2)}`,
);
console.log(
  `14 megapixels at the pace of the slowest of 12 or more: ${slowest.toFixed(1)} s on one core (must 8 on two, aim 4)`,
);
if (bits > 0 || line > 1 || slowest > 8) process.exitCode = 1;
