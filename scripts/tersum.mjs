// npm run --silent tersum -- … : the command line, built when its sources changed. What concerns a studio's own files is the server's.
import { installPackages } from './install.mjs';

installPackages();
const { buildServer } = await import('./build.mjs');
await buildServer();
const OF_THE_STUDIO = ['backup', 'check-store', 'replay'];
await import(OF_THE_STUDIO.includes(process.argv[2]) ? '../dist/server/command.js' : '../dist/cli/tersum.js');
