// npm start: installs what is missing, builds what is out of date, then serves.
import { installPackages } from './install.mjs';

console.log(
  'Tersum starts: what is missing is installed, what is out of date is built. The first start takes a minute or two.',
);
installPackages();
const { buildServer, buildWeb } = await import('./build.mjs');
console.log('Building the server…');
await buildServer();
console.log('Building the interface…');
await buildWeb();
await import('../dist/server/main.js');
