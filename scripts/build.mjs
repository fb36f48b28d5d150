// Builds what is out of date: kernels, server and command line (esbuild), web (Vite). `--no-web` leaves the web out.
import { cpSync, existsSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { build } from 'esbuild';
import { buildKernels } from './kernels.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
process.chdir(root);

function newest(path) {
  const info = statSync(path);
  if (!info.isDirectory()) return info.mtimeMs;
  return Math.max(info.mtimeMs, ...readdirSync(path).map((name) => newest(join(path, name))));
}

const fresh = (target, ...sources) =>
  existsSync(target) && statSync(target).mtimeMs > Math.max(...sources.filter(existsSync).map(newest));

export async function buildServer() {
  await buildKernels();
  if (fresh('dist/server/main.js', 'src/core', 'src/contract', 'src/server', 'src/cli', 'package.json')) return;
  await build({
    entryPoints: {
      'server/main': 'src/server/main.ts',
      'server/store': 'src/server/store/thread.ts',
      'server/pool': 'src/server/work/thread.ts',
      'cli/tersum': 'src/cli/main.ts',
      'cli/predict': 'src/cli/predict.ts',
    },
    outdir: 'dist',
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    packages: 'external',
    sourcemap: true,
    logLevel: 'warning',
  });
  cpSync('src/server/store/migrations', 'dist/server/migrations', { recursive: true });
}

export async function buildWeb() {
  await buildKernels();
  if (fresh('dist/web/index.html', 'src/core', 'src/contract', 'src/web', 'package.json', 'vite.config.ts')) return;
  const { build: bundle } = await import('vite');
  await bundle({ configFile: join(root, 'vite.config.ts'), logLevel: 'warn' });
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  await buildServer();
  if (!process.argv.includes('--no-web')) await buildWeb();
}
