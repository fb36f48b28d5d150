// npm run bench:stroke : from the move of the pointer to the painted frame, through the real interface in headless Chromium:
// a 150 px brush on a 14-megapixel picture. Beside it the frames of an empty page, since Chromium paints by software here. Then
// the repair that was committed is compared, sample by sample, with what its specification gives in the core that previewed it.
import { chromium } from '@playwright/test';
import sharp from 'sharp';
import { closeUpReady, onPage } from '../e2e/bench.ts';
import { TestServer } from '../e2e/server.ts';
import type { PictureState } from '../src/contract/api.ts';
import { createRaster, crop } from '../src/core/raster/raster.ts';
import { layOver } from '../src/core/repair/patch.ts';
import { renderRepair } from '../src/core/repair/registry.ts';
import { photograph } from './planted.ts';

const server = new TestServer();
await server.start();
const truth = await photograph('dust-bowl-home', 4584);
const file = await sharp(truth.data as Uint8Array, { raw: { width: truth.width, height: truth.height, channels: 3 } })
  .png({ compressionLevel: 1 })
  .toBuffer();
const job = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Stroke' });
const { id } = await server.json<{ id: string }>(`/jobs/${job.id}/pictures?name=stroke.png`, 'POST', file);
console.log(`${((truth.width * truth.height) / 1e6).toFixed(1)} megapixels`);

const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM_PATH ?? '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking'],
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
await page.addInitScript('globalThis.__name = (f) => f');
const share = (list: number[], q: number) => [...list].sort((a, b) => a - b)[Math.floor(q * (list.length - 1))] ?? NaN;
const show = (name: string, list: number[]) =>
  console.log(
    `${name.padEnd(34)} median ${share(list, 0.5).toFixed(1)} ms, 75 % ${share(list, 0.75).toFixed(1)}, 95 % ${share(list, 0.95).toFixed(1)}, worst ${share(list, 1).toFixed(1)} ms, ${list.length} moves`,
  );

await page.goto('about:blank');
const idle = await page.evaluate(
  () =>
    new Promise<number[]>((resolve) => {
      const list: number[] = [];
      let last = performance.now();
      const tick = (now: number) => {
        list.push(now - last);
        last = now;
        if (list.length < 90) requestAnimationFrame(tick);
        else resolve(list.slice(2));
      };
      requestAnimationFrame(tick);
    }),
);
show('frames of an empty page', idle);

await page.goto(`${server.address}/pictures/${id}/bench`);
await closeUpReady(page);
const verbs = [
  ['4', 'copy, as it is'],
  ['4', 'copy, turned 20° at 120 %'],
  ['5', 'blend'],
] as const;
for (const [n, [key, name]] of verbs.entries()) {
  await page.keyboard.press('Escape');
  await page.keyboard.press('1');
  await page.evaluate(
    ([x, y]) =>
      (window as never as { tersumView: { centreOn(x: number, y: number, s: number): void } }).tersumView.centreOn(
        x,
        y,
        1,
      ),
    [1200 + n * 900, 1400],
  );
  await closeUpReady(page);
  await page.keyboard.press(key);
  if (n === 0) {
    await page.getByRole('toolbar').getByRole('slider', { name: /^Size/ }).fill('150');
    await page.evaluate(() => (globalThis.document.activeElement as HTMLElement).blur());
  }
  if (n === 1) {
    await page.getByRole('toolbar').getByLabel('Turn, degrees').fill('20');
    await page.getByRole('toolbar').getByLabel('Scale, percent').fill('120');
    await page.evaluate(() => (globalThis.document.activeElement as HTMLElement).blur());
  }
  const middle = 1200 + n * 900;
  const from = await onPage(page, middle - 200, 1330);
  await page.mouse.move(from.x, from.y);
  await page.keyboard.down('d');
  await page.mouse.down();
  await page.mouse.up();
  await page.keyboard.up('d');
  const start = await onPage(page, middle - 60, 1400);
  await page.mouse.move(start.x, start.y);
  await page.waitForTimeout(800);
  await page.evaluate(() => ((window as never as { tersumStroke: number[] }).tersumStroke = []));
  await page.mouse.down();
  for (let k = 1; k <= 150; k++) {
    const a = k / 14;
    await page.mouse.move(start.x + 1.6 * k, start.y + 55 * Math.sin(a));
    await page.waitForTimeout(16);
  }
  await page.waitForTimeout(300);
  const list = await page.evaluate(() => (window as never as { tersumStroke: number[] }).tersumStroke);
  await page.mouse.up();
  show(name, list);
  await page.waitForTimeout(2500);
}

// What was committed against what the core gives for the same specification.
const { document: made } = await server.json<PictureState>(`/pictures/${id}`);
const out = await sharp(await server.bytes(`/pictures/${id}/export?format=png`))
  .removeAlpha()
  .raw()
  .toBuffer();
const expected = createRaster(truth.width, truth.height, 3, 8, truth.data.slice());
for (const repair of made.repairs) {
  const beneath = { width: truth.width, height: truth.height, read: (box: never) => crop(expected, box) };
  layOver(expected, { x: 0, y: 0 }, renderRepair(beneath, repair.tries[0].spec).patch, repair.strength);
}
let differing = 0;
for (let i = 0; i < out.length; i++) if (out[i] !== expected.data[i]) differing++;
console.log(`${made.repairs.length} repairs committed; samples that differ from the core's: ${differing}`);
await browser.close();
await server.kill();
