// npm run dev: the server with its present build, and Vite with hot replacement beside it.
import { spawn } from 'node:child_process';
import { installPackages } from './install.mjs';

installPackages();
const { buildServer } = await import('./build.mjs');
await buildServer();
const server = spawn(process.execPath, ['dist/server/main.js'], { stdio: 'inherit' });
const { createServer } = await import('vite');
const vite = await createServer({ configFile: 'vite.config.ts' });
await vite.listen();
vite.printUrls();
process.on('SIGINT', () => {
  server.kill();
  process.exit(0);
});
