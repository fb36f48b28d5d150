import { writeFile } from 'node:fs/promises';
import { parseArgs } from 'node:util';
import { encode } from '../codec/encode.ts';
import { joinFiles, type FrameFile } from '../codec/join-files.ts';
import { limitsFrom } from '../codec/limits.ts';
import { Refused } from '../contract/refused.ts';
import { MOST_FRAMES, PROJECTIONS } from '../contract/studio.ts';
import { accountOf } from '../core/join/account.ts';
import { bytesOf, formatOf, maskPath, writeMask } from './files.ts';
import { UsageError } from './usage.ts';

const NAMES = ['frames', 'projection', 'out', 'gaps', 'json'] as const;
const USAGE =
  'Options: --frames A,B[,C…] [--projection flat|cylinder|auto] --out OUT [--gaps GAPS.png] [--json OUT.json]';

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
  const frames: FrameFile[] = [];
  for (const file of files) frames.push({ name: file, file: await bytesOf(file, 'frames') });
  try {
    const { made: joined, first } = await joinFiles(frames, projection, limitsFrom(process.env));
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
    if (error instanceof Refused) throw new UsageError(`--frames: ${error.message}`);
    throw error;
  }
}
