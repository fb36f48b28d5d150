// npm run demo:render : renders the demo pictures, each clean and damaged, into demo/pictures.
import { mkdirSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { renderBay } from './bay.ts';
import { renderCottage } from './cottage.ts';
import { renderGarden } from './garden.ts';
import { renderHeadland } from './headland.ts';
import { renderLamp } from './lamp.ts';

const folder = fileURLToPath(new URL('../pictures', import.meta.url));
mkdirSync(folder, { recursive: true });
const only = process.argv[2];
if (!only || only === 'headland') await renderHeadland(folder);
if (!only || only === 'cottage') await renderCottage(folder);
if (!only || only === 'garden') await renderGarden(folder);
if (!only || only === 'lamp') await renderLamp(folder);
// Cut from the headland's truth.
if (!only || only === 'headland' || only === 'bay') await renderBay(folder);
