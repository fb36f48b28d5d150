import { writeFile } from 'node:fs/promises';
import { parseArgs } from 'node:util';
import { encode } from '../codec/encode.ts';
import { proportionOf, type PlaceName, type SubjectPlace } from '../core/frame/format.ts';
import { framingOf } from '../core/frame/framing.ts';
import { sumInWords } from '../core/frame/words.ts';
import { boxOf, type Box, type Raster } from '../core/raster/raster.ts';
import { DEFAULT_FILL } from '../core/repair/fill/settings.ts';
import { versionOf } from '../core/repair/registry.ts';
import type { FillSpec } from '../core/repair/spec.ts';
import { amountsOf } from '../core/repair/stretch/amounts.ts';
import { around } from '../document/edits/frame.ts';
import { maskBox, onCanvas, repairOnto, shapeOf, stretchOnto } from './canvas.ts';
import { formatOf, maskPath, read, writeMask } from './files.ts';
import { UsageError } from './usage.ts';

const PLACES: Record<string, PlaceName> = {
  'third-left': 'first third',
  'third-right': 'second third',
  centre: 'centre',
};
const NAMES = ['picture', 'format', 'subject', 'place', 'way', 'out', 'gaps', 'json'] as const;
const WAYS = ['fill', 'stretch', 'auto'];
const USAGE = `Options: --picture IN --format 1:1 --out OUT [--subject MASK.png] [--place ${Object.keys(PLACES).join('|')}] [--way ${WAYS.join('|')}] [--gaps GAPS.png] [--json OUT.json]`;

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

const moved = (box: Box, by: Box): Box => ({ ...box, x: box.x - by.x, y: box.y - by.y });

/** Fills the strips of a canvas that its picture does not reach; says how. @throws UsageError */
function fillStrips(canvas: Raster, strips: readonly Box[], subject: Box | null): string | null {
  if (!strips.length) return null;
  const spec: FillSpec = {
    ...DEFAULT_FILL,
    method: 'fill',
    version: versionOf('fill'),
    cover: strips.map(shapeOf),
    margin: 0,
    feather: 0,
    donorArea: [],
    barred: subject ? [shapeOf(subject)] : [],
    avoid: [],
    style: 'first',
    light: true,
  };
  return repairOnto(canvas, spec);
}

/** Times up to which a background is drawn out where nothing else is asked for. */
const SLIGHT = 1.2;

/** Whether the background is to be drawn out rather than filled. @throws UsageError */
function isStretched(way: string, picture: Raster, canvas: Box, subject: Box | null): boolean {
  if (!WAYS.includes(way)) throw new UsageError(`--way must be one of ${WAYS.join(', ')}.`);
  const most = Math.max(...amountsOf(boxOf(picture), canvas, subject).map((a) => a.times));
  return way === 'stretch' || (way === 'auto' && subject !== null && most <= SLIGHT);
}

/**
 * `tersum extend`: brings a picture to a proportion by adding background and filling it or drawing it out, the subject on a third or in the middle as nearly
 * as that allows. Filled, every pixel of the picture keeps every bit (PNG, TIFF) and nothing comes from the subject; drawn out, the subject does.
 */
export async function extendCommand(args: string[]): Promise<object> {
  const values = valuesOf(args);
  const proportion = proportionOf(values.format ?? '');
  if (!proportion) throw new UsageError('--format must be a proportion, such as 1:1, 4:5 or 210x297.');
  if (values.place && !PLACES[values.place])
    throw new UsageError(`--place must be one of ${Object.keys(PLACES).join(', ')}.`);
  if (values.place && !values.subject)
    throw new UsageError('--place needs --subject, a mask of what is to stand there.');
  const format = formatOf(values.out);
  maskPath(values.gaps, 'gaps');
  const picture = await read(values.picture, 'picture');
  const { raster } = picture;
  const subject = await subjectOf(values.subject, raster);
  const placement = { across: values.place ? PLACES[values.place] : null, down: null };
  const framing = framingOf(boxOf(raster), proportion.ratio, 'extend', subject, placement);
  const { canvas: box } = framing;
  const canvas = onCanvas(raster, box, 'format');
  const own = moved(boxOf(raster), box);
  const strips = around(boxOf(canvas), own);
  const drawn = strips.length > 0 && isStretched(values.way ?? 'fill', raster, box, subject && subject.box);
  const done = drawn
    ? stretchOnto(canvas, box, raster, subject && subject.box)
    : fillStrips(canvas, strips, subject && moved(subject.box, box));
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
    sum: sumInWords(proportion.name, boxOf(raster), framing, { placement, focus: 'the subject', delivery: null }),
    way: drawn ? 'stretch' : 'fill',
    filled: done,
  };
  if (values.json) await writeFile(values.json, `${JSON.stringify(told, null, 1)}\n`);
  return told;
}
