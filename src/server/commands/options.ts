import { existsSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { parseArgs, type ParseArgsConfig } from 'node:util';

/** Bad input on the command line: one line for the person, exit status 2. */
export class UsageError extends Error {}

/** Reads options and what else is named. @throws UsageError with what the command takes */
export function optionsOf<T extends NonNullable<ParseArgsConfig['options']>>(
  args: string[],
  options: T,
  takes: string,
) {
  try {
    return parseArgs({ args, options: { ...options, data: { type: 'string' } }, allowPositionals: true });
  } catch (error) {
    throw new UsageError(`${(error as Error).message.split('\n')[0]} ${takes}`);
  }
}

/** The studio file in a data folder: the one named, or that of TERSUM_DATA, or `data`. */
export function studioFile(data: string | undefined): string {
  const path = join(resolve(data ?? process.env.TERSUM_DATA ?? 'data'), 'studio.db');
  if (!existsSync(path)) throw new UsageError(`There is no studio at ${path}. Name its folder with --data.`);
  return path;
}
