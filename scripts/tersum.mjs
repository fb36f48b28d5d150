// npm run --silent tersum -- … : the command line, built when its sources changed.
import { installPackages } from './install.mjs';

installPackages();
const { buildServer } = await import('./build.mjs');
await buildServer();
await import('../dist/cli/tersum.js');
