// npm run dev: the server, built and started anew whenever its sources change, and Vite with hot replacement beside it.
import { spawn } from 'node:child_process';
import { watch } from 'node:fs';
import { installPackages } from './install.mjs';

installPackages();
const { buildServer } = await import('./build.mjs');
const QUIET_MS = 200;

let server;
let stopping = false;

function start() {
  server = spawn(process.execPath, ['dist/server/main.js'], { stdio: 'inherit' });
}

/** Resolves when the server has ended in order. */
function stop() {
  const ended = server.exitCode !== null ? Promise.resolve() : new Promise((resolve) => server.once('exit', resolve));
  server.kill('SIGTERM');
  return ended;
}

let timer;
let building = Promise.resolve();
async function rebuild() {
  try {
    await buildServer();
  } catch (error) {
    console.error(`The server was not built: ${error.message}`);
    return;
  }
  await stop();
  if (!stopping) start();
}
watch('src', { recursive: true }, (_, file) => {
  if (!file || file.startsWith('web') || file.endsWith('.gen.ts')) return;
  clearTimeout(timer);
  timer = setTimeout(() => (building = building.then(rebuild)), QUIET_MS);
});

await buildServer();
start();
const { createServer } = await import('vite');
const vite = await createServer({ configFile: 'vite.config.ts' });
await vite.listen();
vite.printUrls();
process.on('SIGINT', () => {
  stopping = true;
  void stop().then(() => process.exit(0));
});
