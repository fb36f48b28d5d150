import { writeFile } from 'node:fs/promises';
import { parseArgs } from 'node:util';
import { encode } from '../codec/encode.ts';
import { openCv } from '../codec/open-cv.ts';
import { accountOf } from '../core/join/account.ts';
import { CannotJoin, join } from '../core/join/join.ts';
import { formatOf, maskPath, read, writeMask } from './files.ts';
import { UsageError } from './usage.ts';

const NAMES = ['frames', 'projection', 'out', 'gaps', 'json'] as const;
const USAGE =
  'Options: --frames A,B[,C…] [--projection flat|cylinder|auto] --out OUT [--gaps GAPS.png] [--json OUT.json]';
const PROJECTIONS = ['flat', 'cylinder', 'auto'] as const;
const MOST_FRAMES = 12;

/** `tersum join`: joins frames that were taken from one place, and says how they were taken. */
export async function joinCommand(args: string[]): Promise<object> {
  let values: Partial<Record<(typeof NAMES)[number], string>>;
  try {
    values = parseArgs({
      args,
      options: Object.fromEntries(NAMES.map((n) => [n, { type: 'string' as const }])),
    }).values;
  } catch (error) {
    throw new UsageError(`${(error as Error).message.split('\n')[0]} ${USAGE}`);
  }
  const files = (values.frames ?? '').split(',').filter(Boolean);
  if (files.length < 2) throw new UsageError(`--frames needs at least two files, as a.jpg,b.jpg. ${USAGE}`);
  if (files.length > MOST_FRAMES) throw new UsageError(`At most ${MOST_FRAMES} frames can be joined at once.`);
  const projection = PROJECTIONS.find((p) => p === (values.projection ?? 'auto'));
  if (!projection) throw new UsageError('--projection must be flat, cylinder or auto.');
  const format = formatOf(values.out);
  maskPath(values.gaps, 'gaps');
  const pictures = [];
  for (const file of files) pictures.push(await read(file, 'frames'));
  const [first] = pictures;
  for (const [n, { raster }] of pictures.entries())
    if (raster.channels !== first.raster.channels || raster.depth !== first.raster.depth)
      throw new UsageError(
        `--frames: ${files[n]} has other channels or another depth than ${files[0]}. Convert it first.`,
      );
  try {
    const { cv } = await openCv();
    const joined = join(
      cv,
      pictures.map((p) => p.raster),
      { projection },
    );
    const account = accountOf(joined);
    const { picture, gaps } = joined;
    await writeFile(values.out!, await encode(picture, format, { ...first }));
    if (values.gaps)
      await writeMask(
        values.gaps,
        gaps.map((v) => 255 * v),
        picture.width,
        picture.height,
      );
    const told = {
      ...account,
      frames: account.frames.map((frame, n) => ({ file: files[n], ...frame })),
      left: account.left.map((n) => files[n]),
      cuts: account.cuts.map((cut) => ({ ...cut, frames: cut.frames.map((n) => files[n]) })),
    };
    if (values.json) await writeFile(values.json, `${JSON.stringify(told, null, 1)}\n`);
    return told;
  } catch (error) {
    if (error instanceof CannotJoin) throw new UsageError(error.message);
    throw error;
  }
}
