// npm run screenshots : the pictures in docs/screenshots, taken from the demo studio.
import { mkdirSync } from 'node:fs';
import { chromium } from '@playwright/test';
import type { Job } from '../src/contract/studio.ts';
import { closeUpReady, onPage, triesReady } from './bench.ts';
import { TestServer } from './server.ts';

const folder = 'docs/screenshots';
mkdirSync(folder, { recursive: true });
const server = new TestServer(undefined, {});
await server.start();
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM_PATH ?? '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking'],
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
const keep = async (name: string) => {
  await page.waitForTimeout(900);
  await page.screenshot({ path: `${folder}/${name}.png` });
};
const jobs = await server.json<Job[]>('/jobs');
const panel = jobs.find((j) => j.state === 'in work')!;
const picture = panel.pictures[0].id;

await page.goto(server.address);
await page.getByRole('heading', { name: 'Jobs' }).waitFor();
await keep('jobs');
await page.goto(`${server.address}/pictures/${picture}/bench`);
await closeUpReady(page);
await page.getByText('Stop').first().waitFor({ state: 'detached', timeout: 240_000 });
await keep('bench');
await page.getByRole('button', { name: /^Fault 9/ }).click();
await closeUpReady(page);
await page.keyboard.press('3');
await triesReady(page, 3);
await keep('tries');
await page.keyboard.press('v');
await closeUpReady(page);
await keep('divider');
await page.keyboard.press('v');
await page.keyboard.press('2');
await page.keyboard.press('e');
await keep('mark');
await page.keyboard.press('?');
await keep('keys');
await page.keyboard.press('Escape');
await page.goto(`${server.address}/pictures/${picture}/deliver`);
await page.getByRole('heading', { name: /^Deliver/ }).waitFor();
await keep('deliver');
const print = jobs.find((j) => j.pictures[0]?.name === 'cottage.jpg')!.pictures[0].id;
await page.goto(`${server.address}/pictures/${print}/survey`);
await page.getByRole('button', { name: 'Survey', exact: true }).last().click();
await page.getByRole('button', { name: /^Specks/ }).click({ timeout: 240_000 });
await page.getByRole('button', { name: /^Find 3,/ }).hover();
await page.waitForTimeout(3000);
await keep('survey');
await page.goto(`${server.address}/pictures/${picture}/survey`);
await page.getByRole('button', { name: 'Survey', exact: true }).last().click();
await page.getByRole('button', { name: /^Stand-outs/ }).click({ timeout: 240_000 });
await page.getByRole('button', { name: 'What draws the eye' }).click();
await page.waitForTimeout(2500);
await keep('attention');
const garden = jobs.find((j) => j.pictures[0]?.name === 'garden.jpg')!.pictures[0].id;
await page.goto(`${server.address}/pictures/${garden}/bench`);
await closeUpReady(page);
await page.keyboard.press('6');
for (const [x0, y0, x1, y1] of [
  [1280, 700, 1638, 1100],
  [1434, 700, 1790, 1100],
  [2070, 700, 1734, 1100],
  [2210, 700, 1879, 1100],
]) {
  for (const [x, y] of [
    [x0, y0],
    [x1, y1],
  ]) {
    const at = await onPage(page, x, y);
    await page.mouse.click(at.x, at.y);
  }
  await page.waitForTimeout(2500);
}
await page.getByRole('button', { name: 'Complete the mesh' }).click();
await page.getByRole('button', { name: /mesh, open/ }).click({ timeout: 120_000 });
await closeUpReady(page);
await keep('mesh');
await page.goto(`${server.address}/jobs/${panel.id}/intake`);
await page.getByRole('button', { name: 'To the bench' }).waitFor();
await keep('intake');
await browser.close();
await server.kill();
process.exit();
