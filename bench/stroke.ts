// npm run bench:stroke : from the move of the pointer to the painted frame, through the real interface in headless Chromium:
// a 150 px brush on a 14-megapixel picture. Beside it the frames of an empty page, since Chromium paints by software here. Then
// what the preview showed when the brush rested is compared, sample by sample, with what was committed and delivered.
import { chromium } from '@playwright/test';
import sharp from 'sharp';
import { closeUpReady, onPage } from '../e2e/bench.ts';
import { TestServer } from '../e2e/server.ts';
import type { PictureState } from '../src/contract/api.ts';
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
const previews: Array<{ box: { x: number; y: number; width: number; height: number }; name: string; data: string }> =
  [];
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
    // A step of the slider is a share of the size: up to where it is 150 px, or just over.
    const size = page.getByRole('slider', { name: /^Size/ });
    await size.focus();
    while (parseInt((await size.getAttribute('aria-valuetext'))!, 10) < 150) await page.keyboard.press('ArrowRight');
    await page.evaluate(() => (globalThis.document.activeElement as HTMLElement).blur());
  }
  if (n === 1) {
    const donor = page.getByRole('region', { name: 'Copy' });
    await donor.getByLabel('Turn, degrees').fill('20');
    await donor.getByLabel('Scale, percent').fill('120');
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
  // Long enough for the tone of a blend to follow.
  await page.waitForTimeout(2500);
  previews.push(
    await page.evaluate(() => {
      type Shown = { canvas: HTMLCanvasElement; box: { x: number; y: number; width: number; height: number } };
      const { canvas, box } = (window as never as { tersumStroke: { sheet: Shown } }).tersumStroke.sheet;
      const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
      let text = '';
      for (let i = 0; i < data.length; i += 8192) text += String.fromCharCode(...data.subarray(i, i + 8192));
      return { box, name: '', data: btoa(text) };
    }),
  );
  previews[n].name = name;
  const list = await page.evaluate(() => (window as never as { tersumStroke: number[] }).tersumStroke);
  await page.mouse.up();
  show(name, list);
  await page.waitForTimeout(2500);
}

// What was delivered against what the browser showed; the sheet is opaque where it showed anything.
const { document: made } = await server.json<PictureState>(`/pictures/${id}`);
const out = await sharp(await server.bytes(`/pictures/${id}/export?format=png`))
  .removeAlpha()
  .raw()
  .toBuffer();
console.log(`${made.repairs.length} repairs committed`);
for (const { box, name, data } of previews) {
  const shown = Buffer.from(data, 'base64');
  let [compared, differing, changed] = [0, 0, 0];
  for (let y = 0, i = 0; y < box.height; y++) {
    for (let x = 0; x < box.width; x++, i += 4) {
      if (shown[i + 3] !== 255) continue;
      const o = ((box.y + y) * truth.width + box.x + x) * 3;
      for (let c = 0; c < 3; c++) {
        compared++;
        if (shown[i + c] !== out[o + c]) differing++;
        if (out[o + c] !== truth.data[o + c]) changed++;
      }
    }
  }
  console.log(
    `${name.padEnd(34)} ${compared} samples previewed (${changed} of them changed the picture), ${differing} differ from the committed`,
  );
}
await browser.close();
await server.kill();
