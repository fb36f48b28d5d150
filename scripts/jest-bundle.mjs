// Jest runs each test file as one bundle of it and all of ours it needs, with what the language itself provides held beside it. Otherwise
// each Math and each Infinity is looked up through the separate world that Jest gives to each file, which is slow within loops.
import { createHash } from 'node:crypto';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { buildSync } from 'esbuild';

const root = join(import.meta.dirname, '..');
// What asks for its own address asks for what lies beside bench/ or in packages.
const here = JSON.stringify(pathToFileURL(join(root, 'bench', 'tests.ts')).href);
const held = [
  ...[
    'Math',
    'Number',
    'Object',
    'Array',
    'Map',
    'Set',
    'WeakMap',
    'JSON',
    'NaN',
    'Infinity',
    'ArrayBuffer',
    'DataView',
  ],
  ...['Int8', 'Uint8', 'Uint8Clamped', 'Int16', 'Uint16', 'Int32', 'Uint32', 'Float32', 'Float64'].map(
    (t) => `${t}Array`,
  ),
];
const banner = `const { ${held.join(', ')} } = globalThis;`;
const made = new Map();

function bundle(file) {
  let text = made.get(file);
  if (text === undefined) {
    const { outputFiles } = buildSync({
      entryPoints: [file],
      absWorkingDir: root,
      bundle: true,
      write: false,
      platform: 'node',
      format: 'cjs',
      target: 'es2022',
      packages: 'external',
      jsx: 'automatic',
      sourcemap: 'inline',
      define: { 'import.meta.url': here },
      banner: { js: banner },
      logLevel: 'warning',
    });
    text = outputFiles[0].text;
    made.set(file, text);
  }
  return text;
}

export default {
  // By what it is made into, so that a change of anything it needs is seen.
  getCacheKey: (_source, file) => createHash('sha256').update(bundle(file)).digest('hex'),
  process: (_source, file) => ({ code: bundle(file) }),
};
