import { parseArgs } from 'node:util';
import { limitsFrom } from '../codec/limits.ts';
import type { Verification } from '../contract/record.ts';
import { flatFile } from '../record/flat.ts';
import { verify } from '../record/verify.ts';
import { bytesOf } from './files.ts';
import { UsageError } from './usage.ts';

const USAGE = 'Options: --original ORIGINAL [--frames A,B[,C…]] --record RECORD.json --delivered DELIVERED';
const NAMES = ['original', 'frames', 'record', 'delivered'] as const;

/** `tersum verify`: does all that a record says to the original again, and compares. Exit status 1 where something differs. */
export async function verifyCommand(args: string[]): Promise<Verification> {
  let values: Partial<Record<(typeof NAMES)[number], string>>;
  try {
    const options = Object.fromEntries(NAMES.map((n) => [n, { type: 'string' as const }]));
    values = parseArgs({ args, options }).values;
  } catch (error) {
    throw new UsageError(`${(error as Error).message.split('\n')[0]} ${USAGE}`);
  }
  const limits = limitsFrom(process.env);
  const [original, record, delivered] = [
    await bytesOf(values.original, 'original', USAGE),
    await bytesOf(values.record, 'record', USAGE),
    await bytesOf(values.delivered, 'delivered', USAGE),
  ];
  const frames: Buffer[] = [];
  for (const path of (values.frames ?? '').split(',').filter(Boolean)) frames.push(await bytesOf(path, 'frames'));
  let found: Verification;
  try {
    found = await verify(
      { original, frames, record: record.toString('utf8'), delivered },
      (picture, from, of) => flatFile(picture, from, of, limits),
      limits,
    );
  } catch (error) {
    throw new UsageError((error as Error).message);
  }
  if (!found.agrees) process.exitCode = 1;
  return found;
}
