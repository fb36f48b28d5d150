// Whether something built is older than what it is built from.
import { existsSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';

/** Time of the newest change in a file or folder; a file that was taken out of a folder changes the folder. */
function newest(path) {
  const info = statSync(path);
  if (!info.isDirectory()) return info.mtimeMs;
  return Math.max(info.mtimeMs, ...readdirSync(path).map((name) => newest(join(path, name))));
}

/** A target is fresh when nothing of its sources changed since it was built; sources that are not there do not count. */
export const isFresh = (target, sources) =>
  existsSync(target) && statSync(target).mtimeMs > Math.max(...sources.filter(existsSync).map(newest));
