// Installs the packages when they are missing or the lock file has changed since. Needs nothing but Node itself.
import { execFileSync } from 'node:child_process';
import { copyFileSync, existsSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));
const lock = `${root}package-lock.json`;
const stamp = `${root}node_modules/.tersum-lock`;

export function installPackages() {
  const same = existsSync(stamp) && readFileSync(stamp, 'utf8') === readFileSync(lock, 'utf8');
  if (same) return;
  console.log('Installing packages…');
  // Not `npm ci`: it refuses the whole lock file where a registry holds no build of a package for some other platform.
  execFileSync('npm', ['install', '--no-save', '--no-audit', '--no-fund', '--loglevel=error'], {
    cwd: root,
    stdio: 'inherit',
    shell: process.platform === 'win32',
  });
  copyFileSync(lock, stamp);
}
