import { writeFile } from 'node:fs/promises';
import { parseArgs } from 'node:util';
import { encode } from '../codec/encode.ts';
import { SEEN, type Finding } from '../core/check/finding.ts';
import { proportionOf, type PlaceName, type SubjectPlace } from '../core/frame/format.ts';
import { framingOf } from '../core/frame/framing.ts';
import { sumInWords } from '../core/frame/words.ts';
import { bestRender } from '../core/plan/best-render.ts';
import { goWay, type GrowingWay, type WayAsked } from '../core/plan/frame-ways.ts';
import { around, boxOf, shiftBox, type Box, type Raster } from '../core/raster/raster.ts';
import { amountsOf, SLIGHT } from '../core/repair/stretch/amounts.ts';
import { written } from './check.ts';
import { canvasWith, maskBox, shapeOf } from './canvas.ts';
import { formatOf, maskPath, read, writeMask } from './files.ts';
import { UsageError } from './usage.ts';

const PLACES: Record<string, PlaceName> = {
  'third-left': 'first third',
  'third-right': 'second third',
  centre: 'centre',
};
const NAMES = ['picture', 'format', 'subject', 'place', 'way', 'tries', 'out', 'gaps', 'json'] as const;
const WAYS = ['fill', 'stretch', 'mixed', 'auto'];
const USAGE = `Options: --picture IN --format 1:1 --out OUT [--subject MASK.png] [--place ${Object.keys(PLACES).join('|')}] [--way ${WAYS.join('|')}] [--tries 1|2|3] [--gaps GAPS.png] [--json OUT.json]`;

type Values = Partial<Record<(typeof NAMES)[number], string>>;

function valuesOf(args: string[]): Values {
  try {
    const options = Object.fromEntries(NAMES.map((n) => [n, { type: 'string' as const }]));
    return parseArgs({ args, options }).values;
  } catch (error) {
    throw new UsageError(`${(error as Error).message.split('\n')[0]} ${USAGE}`);
  }
}

/** The box of what a mask covers, with its middle to stand where it is asked for. */
async function subjectOf(path: string | undefined, picture: Raster): Promise<SubjectPlace | null> {
  const box = await maskBox(path, picture, 'subject');
  return box && { box, focus: [box.x + box.width / 2, box.y + box.height / 2], looks: 0 };
}

/** Which way is gone: filled, drawn out, some of each, or as is best. @throws UsageError */
function wayOf(way: string, picture: Raster, canvas: Box, subject: Box | null): GrowingWay {
  if (!WAYS.includes(way)) throw new UsageError(`--way must be one of ${WAYS.join(', ')}.`);
  if (way === 'stretch' || way === 'mixed') return way;
  const most = Math.max(...amountsOf(boxOf(picture), canvas, subject).map((a) => a.times));
  return way === 'auto' && subject !== null && most <= SLIGHT ? 'stretch' : 'extend';
}

/** How often a fill of which something would be seen is tried otherwise, at most, itself counted. @throws UsageError */
function triesOf(text = '3'): number {
  if (!/^[123]$/.test(text)) throw new UsageError('--tries must be 1, 2 or 3.');
  return Number(text);
}

/** Goes a way on a canvas, in place; says how, and what of it would be seen. @throws UsageError */
function gone(canvas: Raster, source: Box, asked: WayAsked, tries: number) {
  const found: Finding[] = [];
  try {
    const render = bestRender(tries, Math.max(canvas.width, canvas.height), found);
    const filled = goWay(canvas, source, asked, { render }).join(' ');
    return { filled, seen: found.filter((f) => f.severity >= SEEN).map(written) };
  } catch (error) {
    throw new UsageError((error as Error).message);
  }
}

/**
 * `tersum extend`: brings a picture to a proportion by adding background and filling it or drawing it out, the subject on a third or in the middle as nearly
 * as that allows. Filled, every pixel of the picture keeps every bit (PNG, TIFF) and nothing comes from the subject; drawn out, the subject does.
 * While something would be seen of a fill it is tried otherwise, and the best is taken; what would be seen of that is told, in px of the picture.
 */
export async function extendCommand(args: string[]): Promise<object> {
  const values = valuesOf(args);
  const proportion = proportionOf(values.format ?? '');
  if (!proportion) throw new UsageError('--format must be a proportion, such as 1:1, 4:5 or 210x297.');
  if (values.place && !PLACES[values.place])
    throw new UsageError(`--place must be one of ${Object.keys(PLACES).join(', ')}.`);
  if (values.place && !values.subject)
    throw new UsageError('--place needs --subject, a mask of what is to stand there.');
  const tries = triesOf(values.tries);
  const format = formatOf(values.out);
  maskPath(values.gaps, 'gaps');
  const picture = await read(values.picture, 'picture');
  const { raster } = picture;
  const subject = await subjectOf(values.subject, raster);
  const placement = { across: values.place ? PLACES[values.place] : null, down: null };
  const framing = framingOf(boxOf(raster), proportion.ratio, 'extend', subject, placement);
  const { canvas: box } = framing;
  const canvas = canvasWith(raster, box, 'format');
  const strips = around(boxOf(canvas), shiftBox(boxOf(raster), -box.x, -box.y));
  const way = wayOf(values.way ?? 'fill', raster, box, subject && subject.box);
  const asked: WayAsked = { way, canvas: box, subject: subject ? [shapeOf(subject.box)] : [], by: 'smooth' };
  const done = strips.length ? gone(canvas, boxOf(raster), asked, tries) : { filled: null, seen: [] };
  await writeFile(values.out!, await encode(canvas, format, { ...picture }));
  if (values.gaps) {
    const gaps = new Uint8Array(box.width * box.height);
    for (const { x, y, width, height } of strips)
      for (let v = y; v < y + height; v++) gaps.fill(255, v * box.width + x, v * box.width + x + width);
    await writeMask(values.gaps, gaps, box.width, box.height);
  }
  const told = {
    canvas: box,
    sides: framing.sides,
    added: framing.added,
    stands: framing.stands,
    sum: sumInWords(proportion.name, framing, { placement, focus: 'The subject', delivery: null }),
    way: way === 'extend' ? 'fill' : way,
    ...done,
  };
  if (values.json) await writeFile(values.json, `${JSON.stringify(told, null, 1)}\n`);
  return told;
}
