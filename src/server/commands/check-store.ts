import { existsSync } from 'node:fs';
import { resolve } from 'node:path';
import { checkStoreFile } from '../store/upkeep.ts';
import { optionsOf, studioFile, UsageError } from './options.ts';

const TAKES = 'Options: [FILE] [--data FOLDER]';

/** `tersum check-store [FILE]`: looks a studio, or a backup of one, through: structure, references, every pixel's hash. */
export function checkStoreCommand(args: string[]): { answer: object; failed: boolean } {
  const { values, positionals } = optionsOf(args, {}, TAKES);
  const [named] = positionals;
  if (named && !existsSync(named)) throw new UsageError(`There is no file ${named}. ${TAKES}`);
  const file = named ? resolve(named) : studioFile(values.data);
  const check = checkStoreFile(file);
  return { answer: { file, ...check }, failed: check.problems.length > 0 };
}
