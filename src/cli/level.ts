import { writeFile } from 'node:fs/promises';
import { parseArgs } from 'node:util';
import { encode } from '../codec/encode.ts';
import { chained, pixelsOf } from '../core/chain/step.ts';
import { largestWithin, turn } from '../core/chain/turn.ts';
import { CERTAIN, leanOf, leanOfLine } from '../core/frame/level.ts';
import type { Point } from '../core/mask/shapes.ts';
import { lumaPlane } from '../core/raster/luma.ts';
import { boxOf, type Raster } from '../core/raster/raster.ts';
import { formatOf, read } from './files.ts';
import { UsageError } from './usage.ts';

const USAGE = 'Options: --picture IN [--line x,y:x,y] [--out OUT] [--json OUT.json]';

/** The ends of a line, px. @throws UsageError */
function lineOf(text: string): [Point, Point] {
  const numbers = text.split(/[,:]/).map(Number);
  if (!/^[^:]+,[^:]+:[^:]+,[^:]+$/.test(text) || numbers.length !== 4 || !numbers.every(Number.isFinite))
    throw new UsageError('--line must be two places, as 120,340:2200,352.');
  return [
    [numbers[0], numbers[1]],
    [numbers[2], numbers[3]],
  ];
}

/** How far a picture leans: along the line that is given, or by its own. */
function leanIn(picture: Raster, line: string | undefined) {
  if (line === undefined) return leanOf({ width: picture.width, height: picture.height, data: lumaPlane(picture) });
  const [from, to] = lineOf(line);
  try {
    return { degrees: leanOfLine(from, to), certainty: 1, from: 'the line' };
  } catch {
    throw new UsageError('--line needs two different places.');
  }
}

/**
 * `tersum level`: says how far a picture leans, and writes it levelled and cut so that no corner is empty. Where its own lines are not
 * certain enough it is not turned.
 */
export async function levelCommand(args: string[]): Promise<object> {
  const names = ['picture', 'line', 'out', 'json'] as const;
  let values: Partial<Record<(typeof names)[number], string>>;
  try {
    values = parseArgs({
      args,
      options: Object.fromEntries(names.map((n) => [n, { type: 'string' as const }])),
    }).values;
  } catch (error) {
    throw new UsageError(`${(error as Error).message.split('\n')[0]} ${USAGE}`);
  }
  const format = values.out === undefined ? null : formatOf(values.out);
  const picture = await read(values.picture, 'picture');
  const { raster } = picture;
  const lean = leanIn(raster, values.line);
  const certain = lean !== null && lean.certainty >= CERTAIN;
  if (certain && Math.abs(lean.degrees) > 45) throw new UsageError('A picture is turned by at most 45 degrees.');
  const degrees = certain ? lean.degrees : 0;
  const kept = degrees === 0 ? boxOf(raster) : largestWithin(boxOf(raster), degrees);
  const told = {
    degrees: lean?.degrees ?? null,
    certainty: lean?.certainty ?? 0,
    from: lean?.from ?? null,
    certain,
    turned: degrees,
    kept,
  };
  if (values.out && format) {
    const about: Point = [raster.width / 2, raster.height / 2];
    const levelled = chained(pixelsOf(raster), [turn({ degrees, about, crop: kept })]).read(kept);
    await writeFile(values.out, await encode(levelled, format, { ...picture }));
  }
  if (values.json) await writeFile(values.json, `${JSON.stringify(told, null, 1)}\n`);
  return told;
}
