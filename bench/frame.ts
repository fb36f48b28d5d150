// npm run bench:frame [-- --look DIR] : backdrops rendered with weave and fall-off of light, three with a shadow that leaves them, cropped and extended again: tone against
// the truth after a blur of 12 px, grain as a share of the truth's, and what Check calls repeats; then the same on four photographs with
// even backgrounds, which is an aim.
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { blur } from '../src/core/raster/planes.ts';
import { createRaster, crop, type Box, type Raster } from '../src/core/raster/raster.ts';
import { addedAgain, addedInWords, type Added } from './added.ts';
import { CLEAN_FITTED, CLEAN_MEASURED, cleanPhotograph } from './photographs.ts';
import { randomiser } from './planted.ts';

const args = process.argv.slice(2);
const look = args.includes('--look') ? args[args.indexOf('--look') + 1] : undefined;
if (look) mkdirSync(look, { recursive: true });

const WIDTH = 1500;
const HEIGHT = 1000;

/** A backdrop: where its light is, by how many stops it falls off to a corner, and along it; its colour; how coarse its weave is, px. */
interface Backdrop {
  light: [x: number, y: number];
  stops: number;
  slope: [x: number, y: number];
  colour: [number, number, number];
  weave: number;
  mottled: number;
  /** what is cropped and added again, shares of each side */
  left: number;
  right: number;
  /** a shadow across it: its middle and half its width at the middle of the picture, how both go on along it, its rim, px; what it leaves of the light */
  shadow?: { y: number; half: number; falls: number; widens: number; rim: number; leaves: number };
}

/** What a shadow leaves of the light at a place. */
function shadeAt(
  { y: middle, half, falls, widens, rim, leaves }: NonNullable<Backdrop['shadow']>,
  x: number,
  y: number,
) {
  const along = x - WIDTH / 2;
  const inside = half + widens * along - Math.abs(y - middle - falls * along);
  const share = Math.min(1, Math.max(0, 0.5 + inside / rim / 2));
  return 1 - (1 - leaves) * share * share * (3 - 2 * share);
}

const BACKDROPS: Backdrop[] = [
  {
    light: [0.5, 0.45],
    stops: 0.8,
    slope: [0, 0],
    colour: [168, 160, 150],
    weave: 5,
    mottled: 1.5,
    left: 0.2,
    right: 0.2,
  },
  {
    light: [0.5, 0.5],
    stops: 1.4,
    slope: [0.1, 0],
    colour: [140, 146, 156],
    weave: 4,
    mottled: 0,
    left: 0.15,
    right: 0.15,
  },
  {
    light: [0.6, 0.4],
    stops: 1,
    slope: [0.25, -0.1],
    colour: [196, 188, 178],
    weave: 6,
    mottled: 2,
    left: 0.3,
    right: 0,
  },
  {
    light: [0.4, 0.5],
    stops: 1.2,
    slope: [-0.2, 0.1],
    colour: [96, 104, 92],
    weave: 5,
    mottled: 2,
    left: 0,
    right: 0.35,
  },
  {
    light: [0.5, 0.3],
    stops: 0.6,
    slope: [0.4, 0],
    colour: [120, 110, 104],
    weave: 7,
    mottled: 1,
    left: 0.2,
    right: 0.2,
  },
  {
    light: [0.45, 0.55],
    stops: 1.2,
    slope: [0, 0.2],
    colour: [182, 170, 140],
    weave: 4,
    mottled: 2.5,
    left: 0,
    right: 0.4,
  },
  {
    light: [0.55, 0.45],
    stops: 0.4,
    slope: [0.1, 0.1],
    colour: [210, 208, 204],
    weave: 5,
    mottled: 1,
    left: 0.25,
    right: 0.1,
  },
  { light: [0.5, 0.5], stops: 1, slope: [0, 0], colour: [70, 74, 84], weave: 6, mottled: 1.5, left: 0.18, right: 0.22 },
  {
    light: [0.45, 0.45],
    stops: 0.8,
    slope: [0, 0],
    colour: [178, 170, 160],
    weave: 5,
    mottled: 1,
    left: 0,
    right: 0.25,
    shadow: { y: 560, half: 80, falls: 0.3, widens: 0.05, rim: 18, leaves: 0.62 },
  },
  {
    light: [0.5, 0.4],
    stops: 1,
    slope: [0.1, 0],
    colour: [150, 154, 160],
    weave: 6,
    mottled: 2,
    left: 0.3,
    right: 0,
    shadow: { y: 420, half: 60, falls: -0.15, widens: -0.04, rim: 40, leaves: 0.75 },
  },
  {
    light: [0.5, 0.5],
    stops: 0.6,
    slope: [0, 0.1],
    colour: [120, 112, 104],
    weave: 5,
    mottled: 1.5,
    left: 0.2,
    right: 0.2,
    shadow: { y: 480, half: 45, falls: 0.45, widens: 0, rim: 4, leaves: 0.5 },
  },
];

/** Renders one; light falls off with the square of the distance and a little with its fourth power, as lenses and lamps do. */
function rendered({ light, stops, slope, colour, weave, mottled, shadow }: Backdrop, seed: number): Raster {
  const out = createRaster(WIDTH, HEIGHT, 3, 8);
  const random = randomiser(seed);
  const noise = Float32Array.from({ length: WIDTH * HEIGHT }, () => random() + random() + random() - 1.5);
  const spots = blur(
    Float32Array.from(noise, () => random() - 0.5),
    WIDTH,
    HEIGHT,
    14,
  );
  const far = Math.hypot(WIDTH, HEIGHT) / 2;
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++) {
      const r = Math.hypot(x - light[0] * WIDTH, y - light[1] * HEIGHT) / far;
      const ev = -stops * (0.85 * r * r + 0.15 * r ** 4) + slope[0] * (x / WIDTH - 0.5) + slope[1] * (y / HEIGHT - 0.5);
      const bent = x + 3 * Math.sin(y / 90);
      const threads =
        2.2 * Math.sin((2 * Math.PI * bent) / weave) +
        2.2 * Math.sin((2 * Math.PI * (y + 2 * Math.sin(x / 120))) / weave);
      const gain = 2 ** ev * (shadow ? shadeAt(shadow, x, y) : 1);
      for (let c = 0; c < 3; c++)
        out.data[3 * i + c] = Math.max(
          0,
          Math.min(
            255,
            Math.round(colour[c] * gain * (1 + (threads + mottled * 60 * spots[i]) / 128) + 1.6 * noise[i]),
          ),
        );
    }
  return out;
}

/** Photographs with an even background, the part of each that is taken, and the side of that which is cropped, as shares. */
const EVEN: Array<
  [name: string, part: [x: number, y: number, width: number, height: number], side: 'left' | 'right', share: number]
> = [
  ['free', [0, 0.5, 1, 0.5], 'right', 0.2],
  ['ColdRipple', [0, 0, 1, 0.4], 'left', 0.2],
  ['DarkestHour', [0, 0, 1, 0.45], 'right', 0.2],
  ['Wood', [0, 0.4, 1, 0.6], 'left', 0.2],
];

/** What is added beside the truth, to be looked at. */
async function lookAt(name: string, done: Raster, truth: Raster): Promise<void> {
  if (!look) return;
  const { width, height } = truth;
  const png = (p: Raster) =>
    sharp(Buffer.from(p.data), { raw: { width, height, channels: 3 } })
      .png()
      .toBuffer();
  await sharp({ create: { width: 2 * width + 8, height, channels: 3, background: '#f0f' } })
    .composite([
      { input: await png(done), left: 0, top: 0 },
      { input: await png(truth), left: width + 8, top: 0 },
    ])
    .png()
    .toFile(join(look, `${name}.png`));
}

const failures: string[] = [];
const missed = ({ mean, most, grain, kinds }: Added, [usual, worst]: [number, number]) => [
  ...(mean > usual || most > worst ? ['tone'] : []),
  ...(grain < 0.85 || grain > 1.15 ? ['grain'] : []),
  ...(kinds.includes('repeat') ? ['repeat'] : []),
];
for (const [n, backdrop] of BACKDROPS.entries()) {
  const truth = rendered(backdrop, 11 + n);
  const gaps: Box[] = [];
  if (backdrop.left) gaps.push({ x: 0, y: 0, width: Math.round(backdrop.left * WIDTH), height: HEIGHT });
  if (backdrop.right) {
    const width = Math.round(backdrop.right * WIDTH);
    gaps.push({ x: WIDTH - width, y: 0, width, height: HEIGHT });
  }
  const added = addedAgain(truth, gaps);
  if (!n || backdrop.shadow) console.log(added.reason);
  const share = Math.round(100 * (backdrop.left + backdrop.right));
  console.log(`backdrop ${n + 1}: ${share} % added; ${addedInWords(added)}`);
  failures.push(...missed(added, [2.5, 6]).map((what) => `${what} of ${n + 1}`));
  await lookAt(`backdrop-${n + 1}`, added.done, truth);
}
let reached = 0;
for (const [name, [x, y, w, h], side, share] of EVEN) {
  const photograph = [...CLEAN_FITTED, ...CLEAN_MEASURED].find((c) => c.name.startsWith(name))!;
  const whole = await cleanPhotograph(photograph, 2);
  const px = (v: number, of: number) => Math.round(v * of);
  const truth = crop(whole, {
    x: px(x, whole.width),
    y: px(y, whole.height),
    width: px(w, whole.width),
    height: px(h, whole.height),
  });
  const width = px(share, truth.width);
  const gap = { x: side === 'left' ? 0 : truth.width - width, y: 0, width, height: truth.height };
  const added = addedAgain(truth, [gap]);
  if (!missed(added, [1.5, 4]).length) reached++;
  console.log(`${name}: ${Math.round(100 * share)} % added at the ${side}; ${addedInWords(added)}`);
  await lookAt(`photograph-${name}`, added.done, truth);
}
console.log(
  `photographs with an even background: ${reached} of ${EVEN.length} to 1.5 and 4, grain 0.85 to 1.15, no repeat (aim ${EVEN.length})`,
);
console.log(failures.length ? `NOT REACHED: ${failures.join('; ')}` : 'all reached');
process.exitCode = failures.length ? 1 : 0;
