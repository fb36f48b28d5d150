// One timed run, in a process of its own: tsx bench/speed-run.ts ROOT CASE. Prints processor and wall seconds and the peak of memory.
import { pathToFileURL } from 'node:url';
import { crop } from '../src/core/raster/raster.ts';
import type { fillRegion as FillRegion } from '../src/core/repair/fill/region.ts';
import type { stylesFor as StylesFor } from '../src/core/repair/fill/settings.ts';
import { SPEED_CASES } from './speed-cases.ts';

const [root, name] = process.argv.slice(2);
const of = async (file: string) =>
  import(pathToFileURL(`${root}/src/core/repair/fill/${file}`).href) as Promise<unknown>;
const { fillRegion } = (await of('region.ts')) as { fillRegion: typeof FillRegion };
const { DEFAULT_FILL, stylesFor } = (await of('settings.ts')) as {
  DEFAULT_FILL: Parameters<typeof FillRegion>[1];
  stylesFor: typeof StylesFor;
};
const found = SPEED_CASES.find((c) => c.name === name)!;
const region = await found.read();
// A first small fill of each kind, so that what a process does once, compiling, is not counted.
const small = crop(region.picture, { x: 0, y: 0, width: 320, height: 320 });
for (const by of [3, 30])
  for (let n = 0; n < 3; n++) {
    const cover = new Uint8Array(320 * 320);
    for (let y = 150 - by; y < 150 + by; y++) cover.fill(1, y * 320 + 100, y * 320 + 220);
    fillRegion({ picture: small, cover }, DEFAULT_FILL);
  }
const rss = process.memoryUsage().rss;
const [from, wallFrom] = [process.cpuUsage(), performance.now()];
// All three tries of a wide cover; of a thin one the proposed one.
const styles = found.kind === 'wide' ? stylesFor(100) : stylesFor(4).slice(0, 1);
for (const style of styles) fillRegion(region, { ...DEFAULT_FILL!, style });
const { user, system } = process.cpuUsage(from);
const peak = process.resourceUsage().maxRSS / 1024;
console.log(
  JSON.stringify({
    cpu: (user + system) / 1e6,
    wall: (performance.now() - wallFrom) / 1e3,
    megabytes: peak,
    before: rss / 2 ** 20,
  }),
);
