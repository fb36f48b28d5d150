// npm run bench:camera [-- --only NAME] [--hands N] [--tries] [--look DIR] : first tries at camera size, on photographs of 8 to 20 megapixels with covers over mixed
// ground. Makes docs/fills.jpg, a contact sheet: each place as it was, what was covered, and the first try. What is to be seen there
// stands in docs/measurements.md. The photographs come out of Debian's packages (see photographs.ts), under the licences named there.
import { mkdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { rasterise, type Point } from '../src/core/mask/shapes.ts';
import type { Raster } from '../src/core/raster/raster.ts';
import { fillRegion } from '../src/core/repair/fill/region.ts';
import { DEFAULT_FILL, LAID_OUT, type FillStyle } from '../src/core/repair/fill/settings.ts';
import { CLEAN_FITTED, CLEAN_MEASURED, cleanPhotograph } from './photographs.ts';
import { spoiled } from './planted.ts';

const args = process.argv.slice(2);
const optionOf = (name: string) => (args.includes(name) ? args[args.indexOf(name) + 1] : undefined);
const only = optionOf('--only');
const look = optionOf('--look');
/** So many outlines are drawn around each place, the first of them for the sheet; with --tries all three tries are made. */
const hands = Number(optionOf('--hands') ?? 1);
const tries: Array<FillStyle | 'auto'> = args.includes('--tries') ? [...LAID_OUT] : ['auto'];
if (look) mkdirSync(look, { recursive: true });

/** Places: what is covered, the photograph, the middle as shares of its sides, and half axes as shares of its width. */
const PLACES: Array<[what: string, photograph: string, x: number, y: number, across: number, down: number]> = [
  ['bottle and glass before a wall', 'Wine', 0.455, 0.232, 0.125, 0.2],
  ['flower head before a meadow', 'seeding', 0.298, 0.374, 0.18, 0.17],
  ['flower out of focus', 'seeding', 0.83, 0.77, 0.095, 0.095],
  ['insect before leaves', 'Dragonfly', 0.606, 0.375, 0.19, 0.12],
  ['sun over the horizon', 'sunset', 0.5, 0.45, 0.08, 0.08],
  ['stone table on a hill', 'sunset', 0.767, 0.85, 0.175, 0.16],
  ['meadow before a cliff', 'picos', 0.5, 0.5, 0.11, 0.11],
  ['snow between cliff and meadow', 'picos', 0.86, 0.62, 0.08, 0.08],
  ['stone on a meadow', 'picos', 0.78, 0.92, 0.04, 0.04],
  ['clouds', 'Bridge', 0.25, 0.7, 0.06, 0.06],
  ['shore', 'Bridge', 0.2, 0.87, 0.05, 0.05],
  ['bird on bark', 'Kleiber', 0.474, 0.499, 0.085, 0.1],
  ['bark', 'Kleiber', 0.2, 0.5, 0.09, 0.09],
  ['post out of focus', 'Kleiber', 0.902, 0.16, 0.055, 0.125],
];

/** Width in px of one picture of the sheet, and its height. */
const [WIDE, HIGH] = [420, 315];

interface Extract {
  left: number;
  top: number;
  width: number;
  height: number;
}

async function piece(picture: Raster, box: Extract) {
  const { width, height } = picture;
  return sharp(picture.data as Uint8Array, { raw: { width, height, channels: 3 } })
    .extract(box)
    .resize(WIDE, HIGH, { fit: 'fill' })
    .png()
    .toBuffer();
}

const save = (picture: Raster, box: Extract, name: string) =>
  sharp(picture.data as Uint8Array, { raw: { width: picture.width, height: picture.height, channels: 3 } })
    .extract(box)
    .png()
    .toFile(join(look!, `${name.replace(/ /g, '-')}.png`));

/** An outline that is no exact ellipse, as a hand draws it; each number is another hand. */
const drawn = (number: number, [x, y]: Point, across: number, down: number) =>
  Array.from({ length: 40 }, (_, n): Point => {
    const angle = (n / 40) * 2 * Math.PI;
    const r = 1 + 0.06 * Math.sin(3 * angle + number) + 0.04 * Math.sin(7 * angle);
    return [x + r * across * Math.cos(angle), y + r * down * Math.sin(angle)];
  });

const rows: Array<{ input: Buffer; left: number; top: number }> = [];
let row = 0;
for (const [number, [what, name, x, y, across, down]] of PLACES.entries()) {
  if (only && !name.includes(only) && !what.includes(only)) continue;
  const found = [...CLEAN_FITTED, ...CLEAN_MEASURED].find((p) => p.name.startsWith(name))!;
  const truth = await cleanPhotograph(found);
  const { width, height } = truth;
  const middle: Point = [x * width, y * height];
  const w = Math.min(width, Math.round(4.4 * Math.max(across, down) * width));
  const h = Math.min(height, Math.round((w * HIGH) / WIDE));
  const box = {
    left: Math.round(Math.min(width - w, Math.max(0, middle[0] - w / 2))),
    top: Math.round(Math.min(height - h, Math.max(0, middle[1] - h / 2))),
    width: w,
    height: h,
  };
  for (let hand = 0; hand < hands; hand++) {
    const points = drawn(number + 1.3 * hand, middle, across * width, down * width);
    const whole = { x: 0, y: 0, width, height };
    const cover = rasterise([{ op: 'add', kind: 'outline', points }], whole).data.map((v) => (v ? 1 : 0));
    const wanting = spoiled(truth, cover);
    const shown = [truth, wanting];
    for (const style of tries) {
      const from = process.cpuUsage();
      const { picture, reason } = fillRegion({ picture: wanting, cover }, { ...DEFAULT_FILL, style });
      const { user, system } = process.cpuUsage(from);
      const megapixels = cover.reduce((a, b) => a + b, 0) / 1e6;
      console.log(
        `${what.padEnd(30)} ${((width * height) / 1e6).toFixed(1)} MP, cover ${megapixels.toFixed(2)} MP, ${((user + system) / 1e6).toFixed(1)} s of processor time. ${reason}`,
      );
      shown.push(picture);
      if (look) await save(picture, box, `${what} ${hand + 1} ${style}`);
    }
    for (const [n, p] of shown.entries())
      rows.push({ input: await piece(p, box), left: n * (WIDE + 6), top: row * (HIGH + 6) });
    row++;
  }
}
const sheet = only || hands > 1 || tries.length > 1 ? join(look ?? tmpdir(), 'fills.jpg') : 'docs/fills.jpg';
const [wide, high] = [(2 + tries.length) * (WIDE + 6) - 6, row * (HIGH + 6) - 6];
await sharp({ create: { width: wide, height: high, channels: 3, background: '#fff' } })
  .composite(rows)
  .jpeg({ quality: 82 })
  .toFile(sheet);
console.log(sheet);
