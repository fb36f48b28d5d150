import { resolve } from 'node:path';
import { backupStore } from '../store/upkeep.ts';
import { optionsOf, studioFile, UsageError } from './options.ts';

const TAKES = 'Options: FILE [--data FOLDER]';

/** `tersum backup FILE`: a copy of the studio as it stands at one moment, looked through; the server may go on working. */
export function backupCommand(args: string[]): { answer: object; failed: boolean } {
  const { values, positionals } = optionsOf(args, {}, TAKES);
  if (positionals.length !== 1) throw new UsageError(`Name the file that the copy is to be. ${TAKES}`);
  const target = resolve(positionals[0]);
  const check = backupStore(studioFile(values.data), target);
  return { answer: { file: target, ...check }, failed: check.problems.length > 0 };
}
