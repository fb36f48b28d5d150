// One timed run, in a process of its own: tsx bench/speed-run.ts ROOT CASE. Prints processor and wall seconds and the peak of memory.
import { pathToFileURL } from 'node:url';
import { crop, type Box } from '../src/core/raster/raster.ts';
import { sketchFill } from '../src/core/repair/fill/sketch.ts';
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
// A thin cover takes little time: the same once before, so that what is timed has been compiled.
if (found.kind === 'thin') fillRegion(region, DEFAULT_FILL);
const rss = process.memoryUsage().rss;
const [from, wallFrom] = [process.cpuUsage(), performance.now()];
// All three tries of a wide cover; of a thin one the proposed one.
const styles = found.kind === 'wide' ? stylesFor(100) : stylesFor(4).slice(0, 1);
for (const style of styles) fillRegion(region, { ...DEFAULT_FILL!, style });
const { user, system } = process.cpuUsage(from);
const wall = (performance.now() - wallFrom) / 1e3;
const peak = process.resourceUsage().maxRSS / 1024;
/** Seconds by the clock until a sketch is there, the first in a process that has filled already, and a further one. */
const sketches: number[] = [];
if (region.shapes && root.startsWith(process.cwd())) {
  const { picture, shapes } = region;
  const spec = { method: 'fill' as const, cover: shapes, margin: 4, feather: 2, donorArea: [], barred: [], avoid: [] };
  const beneath = { width: picture.width, height: picture.height, read: (box: Box) => crop(picture, box) };
  for (let n = 0; n < 2; n++) {
    const began = performance.now();
    sketchFill(beneath, { ...spec, ...DEFAULT_FILL!, style: 'first' });
    sketches.push((performance.now() - began) / 1e3);
  }
}
console.log(
  JSON.stringify({
    sketches,
    cpu: (user + system) / 1e6,
    wall,
    megabytes: peak,
    before: rss / 2 ** 20,
  }),
);
