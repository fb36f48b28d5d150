// Builds what is out of date: kernels, server and command line (esbuild), web (Vite). `--no-web` leaves the web out.
import { cpSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { build } from 'esbuild';
import { isFresh } from './freshness.mjs';
import { buildKernels } from './kernels.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
process.chdir(root);

/** All that may end up in what is built: one room may come to use another without a word here. */
const SOURCES = ['src', 'package.json', 'scripts/build.mjs'];

export async function buildServer() {
  await buildKernels();
  if (isFresh('dist/server/main.js', SOURCES)) return;
  await build({
    entryPoints: {
      'server/main': 'src/server/main.ts',
      'server/store': 'src/server/store/thread.ts',
      'server/pool': 'src/server/work/thread.ts',
      'server/command': 'src/server/commands/main.ts',
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
  if (isFresh('dist/web/index.html', [...SOURCES, 'vite.config.ts'])) return;
  const { build: bundle } = await import('vite');
  await bundle({ configFile: join(root, 'vite.config.ts'), logLevel: 'warn' });
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  await buildServer();
  if (!process.argv.includes('--no-web')) await buildWeb();
}
