// npm start: installs what is missing, builds what is out of date, then serves.
import { installPackages } from './install.mjs';

installPackages();
const { buildServer, buildWeb } = await import('./build.mjs');
await buildServer();
await buildWeb();
await import('../dist/server/main.js');
