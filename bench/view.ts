// npm run bench:view : frames while a 14-megapixel picture is panned and zoomed through the real interface.
// Headless Chromium paints by software here, so the figures are a floor; they are given beside an empty page's.
import { chromium } from '@playwright/test';
import sharp from 'sharp';
import { closeUpReady } from '../e2e/bench.ts';
import { TestServer } from '../e2e/server.ts';
import { framesOf } from './frames.ts';
import { photograph } from './planted.ts';

const server = new TestServer();
await server.start();
const truth = await photograph('dust-bowl-home', 4584);
const file = await sharp(truth.data as Uint8Array, { raw: { width: truth.width, height: truth.height, channels: 3 } })
  .jpeg({ quality: 92 })
  .toBuffer();
const job = await server.json<{ id: string }>('/jobs', 'POST', { name: 'View' });
const { id } = await server.json<{ id: string }>(`/jobs/${job.id}/pictures?name=view.jpg`, 'POST', file);

const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM_PATH ?? '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking'],
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
// The loader that runs this file wraps named functions, also those that are sent to the page.
await page.addInitScript('globalThis.__name = (f) => f');

const share = (list: number[], q: number) => [...list].sort((a, b) => a - b)[Math.floor(q * (list.length - 1))];
const show = (name: string, list: number[]) =>
  console.log(
    `${name.padEnd(22)} median ${share(list, 0.5).toFixed(1)} ms, 95th percentile ${share(list, 0.95).toFixed(1)} ms, ${list.length} frames`,
  );

await page.goto('about:blank');
const idle = await framesOf(page, () => page.waitForTimeout(2000));
show('empty page', idle);
await page.goto(`${server.address}/pictures/${id}/bench`);
await closeUpReady(page);
const box = (await page.getByTestId('close-up').boundingBox())!;
const [cx, cy] = [box.x + box.width / 2, box.y + box.height / 2];
const zoom = await framesOf(page, async () => {
  await page.mouse.move(cx, cy);
  for (let n = 0; n < 14; n++) {
    await page.mouse.wheel(0, n < 8 ? -120 : 120);
    await page.waitForTimeout(120);
  }
});
show('zooming by wheel', zoom);
await page.keyboard.press('9');
await closeUpReady(page);
const pan = await framesOf(page, async () => {
  await page.mouse.move(cx, cy);
  await page.mouse.down();
  for (let n = 0; n < 120; n++) {
    const a = (n / 120) * 4 * Math.PI;
    await page.mouse.move(cx + 260 * Math.sin(a), cy + 160 * Math.sin(a / 2));
  }
  await page.mouse.up();
  await page.waitForTimeout(300);
});
show('panning at 100 %', pan);
await browser.close();
await server.kill();
const ok = share(zoom, 0.5) < 34 && share(pan, 0.5) < 34;
console.log(ok ? 'all reached' : 'NOT REACHED: a median above 34 ms');
process.exitCode = ok ? 0 : 1;
process.exit();
