import { writeFile } from 'node:fs/promises';
import { parseArgs } from 'node:util';
import { encode } from '../codec/encode.ts';
import { boxOf, type Box } from '../core/raster/raster.ts';
import { STRETCH_WAYS } from '../core/repair/spec.ts';
import { amountsOf, SHOWS } from '../core/repair/stretch/amounts.ts';
import { canvasWith, maskBox, stretchOnto } from './canvas.ts';
import { formatOf, read } from './files.ts';
import { UsageError } from './usage.ts';

const SIDES = ['left', 'right', 'top', 'bottom'] as const;
const NAMES = ['picture', 'guard', 'way', 'out', 'json', ...SIDES] as const;
const USAGE =
  'Options: --picture IN --left PX --right PX [--top PX] [--bottom PX] [--guard MASK.png] [--way smooth|seams] --out OUT [--json OUT.json]';

type Values = Partial<Record<(typeof NAMES)[number], string>>;

function valuesOf(args: string[]): Values {
  try {
    const options = Object.fromEntries(NAMES.map((n) => [n, { type: 'string' as const }]));
    // A number below 0 looks like an option of its own.
    const joined: string[] = [];
    for (const arg of args) {
      if (/^-\d+$/.test(arg) && joined.length) joined.push(`${joined.pop()}=${arg}`);
      else joined.push(arg);
    }
    return parseArgs({ args: joined, options }).values;
  } catch (error) {
    throw new UsageError(`${(error as Error).message.split('\n')[0]} ${USAGE}`);
  }
}

function pixelsOf(values: Values, side: (typeof SIDES)[number]): number {
  const text = values[side] ?? '0';
  if (!/^-?\d{1,6}$/.test(text)) throw new UsageError(`--${side} must be a whole number of px, such as 400 or -120.`);
  return Number(text);
}

/**
 * `tersum stretch`: draws the background of a picture out by so many px on each side (in, where they are below 0). What a mask guards
 * keeps every bit (PNG, TIFF) and its place.
 */
export async function stretchCommand(args: string[]): Promise<object> {
  const values = valuesOf(args);
  const [left, right, top, bottom] = SIDES.map((side) => pixelsOf(values, side));
  if (!(left || right || top || bottom)) throw new UsageError(`Say by how much, as --left 400. ${USAGE}`);
  const way = STRETCH_WAYS.find((w) => w === (values.way ?? 'smooth'));
  if (!way) throw new UsageError('--way must be smooth or seams.');
  const format = formatOf(values.out);
  const picture = await read(values.picture, 'picture');
  const { raster } = picture;
  const guard = await maskBox(values.guard, raster, 'guard');
  const onto: Box = { x: -left, y: -top, width: raster.width + left + right, height: raster.height + top + bottom };
  if (onto.width < 1 || onto.height < 1) throw new UsageError('Nothing would be left of the picture. Take less away.');
  const canvas = canvasWith(raster, onto, 'left, --right, --top or --bottom');
  const done = stretchOnto(canvas, onto, raster, guard, way);
  await writeFile(values.out!, await encode(canvas, format, { ...picture }));
  const amounts = amountsOf(boxOf(raster), onto, guard);
  const told = { canvas: onto, amounts, shows: amounts.some((a) => a.times > SHOWS), done };
  if (values.json) await writeFile(values.json, `${JSON.stringify(told, null, 1)}\n`);
  return told;
}
