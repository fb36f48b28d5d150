// npm run bench:strand [-- --unseen] : twelve strands of 2 to 9 px with soft edges, half of them dark on dark or light on light, traced and filled
// in one press; what is left of each against the truth. With --unseen before photographs out of Debian's packages that nothing was tuned on.
import type { Point } from '../src/core/mask/shapes.ts';
import { crop } from '../src/core/raster/raster.ts';
import { ghostOf, type GhostCase } from './ghosts.ts';
import { CLEAN_FITTED, CLEAN_MEASURED, cleanPhotograph } from './photographs.ts';
import { photograph, randomiser } from './planted.ts';

/** px across and down of the piece that each strand is planted in. */
const SIZE = { width: 680, height: 170 };
/** CIEDE2000 of a run that somebody would see, and strands of twelve without one (must). */
const MOST = 1.5;
const GOOD = 11;

/** Skies and other calm grounds, dark and light: picture, and the middle of the piece as shares of its sides. */
export const CALM: Array<[string, number, number]> = [
  ['dust-bowl-home', 0.35, 0.1],
  ['nagasaki-boats', 0.3, 0.13],
  ['black-canyon', 0.4, 0.08],
  ['french-alpine-landscape', 0.6, 0.08],
  ['black-canyon', 0.8, 0.62],
  ['airplane-from-above', 0.8, 0.82],
];
const UNSEEN: Array<[string, number, number]> = [
  ['DarkestHour', 0.5, 0.2],
  ['Kite', 0.3, 0.3],
  ['EveningGlow', 0.5, 0.2],
  ['picosdeeuropa_by_Aitzol_Berasategi', 0.5, 0.15],
  ['Path', 0.5, 0.2],
  ['sunset_by_Aitzol_Berasategi', 0.5, 0.2],
];

/** The twelve strands, two before each piece: one that stands out, and one that is nearly as dark or light as its ground. */
export async function ghostCases(
  places: typeof CALM,
  unseen: boolean,
  random: () => number,
): Promise<Array<GhostCase & { name: string }>> {
  const out: Array<GhostCase & { name: string }> = [];
  for (const [n, [name, x, y]] of places.entries()) {
    const found = [...CLEAN_FITTED, ...CLEAN_MEASURED].find((p) => p.name === name);
    const whole = unseen ? await cleanPhotograph(found!, 4) : await photograph(name, 1800);
    const [width, height] = [Math.min(SIZE.width, whole.width), Math.min(SIZE.height, whole.height)];
    const left = Math.round(Math.max(0, Math.min(whole.width - width, x * whole.width - width / 2)));
    const top = Math.round(Math.max(0, Math.min(whole.height - height, y * whole.height - height / 2)));
    const truth = crop(whole, { x: left, y: top, width, height });
    for (const faint of [false, true]) {
      const k = 2 * n + (faint ? 1 : 0);
      const slope = (random() - 0.5) * 0.1;
      const sag = 8 * random();
      const y0 = height * (0.35 + 0.25 * random());
      const line = (t: number): Point => [
        24 + t * (width - 48),
        y0 + slope * (t - 0.5) * width + sag * 4 * t * (1 - t),
      ];
      let mean = 0;
      for (let i = 0; i < truth.data.length; i += 97) mean += truth.data[i] / Math.ceil(truth.data.length / 97);
      const sign = faint ? (mean < 128 ? -1 : 1) : mean < 128 ? 1 : -1;
      const most = sign < 0 ? mean : 255 - mean;
      // Nearly as dark as a dark ground, or as light as a light one, as far as there is room for that.
      const contrast = faint
        ? (most > 18 ? sign : -sign) * Math.min(30, Math.max(18, 0.5 * most))
        : sign * (70 + 60 * random());
      out.push({
        name,
        truth,
        line,
        width: 2 + (7 * ((k * 5) % 12)) / 11,
        soft: (3 * ((k * 7) % 12)) / 11,
        contrast,
        sharpened: k % 3 !== 1,
      });
    }
  }
  return out;
}

if (process.argv[1]?.endsWith('strand.ts')) {
  const unseen = process.argv.includes('--unseen');
  const random = randomiser(3);
  let good = 0;
  const cases = await ghostCases(unseen ? UNSEEN : CALM, unseen, random);
  for (const one of cases) {
    const g = ghostOf(one, random);
    if (g.left <= MOST) good++;
    console.log(
      `${one.name.slice(0, 24).padEnd(24)} ${one.width.toFixed(1)} px, soft ${one.soft.toFixed(1)}, ${one.contrast.toFixed(0).padStart(4)} levels: left ${g.left.toFixed(2)} at ${g.at} px; covered ${g.covered.toFixed(0)} of ${g.seen.toFixed(1)} px; check: ${g.said} (first: ${g.first})`,
    );
  }
  console.log(`no run over ${MOST} CIEDE2000 in ${good} of ${cases.length} (must ${GOOD})`);
  process.exitCode = good >= GOOD ? 0 : 1;
}
