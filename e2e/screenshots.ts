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
await page.getByRole('button', { name: /^Fault 10,/ }).click();
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
for (let n = 0; n < 2; n++) await page.keyboard.press('Shift+J');
await keep('turned');
await page.keyboard.press('l');
await page.keyboard.press('?');
await keep('keys');
await page.keyboard.press('Escape');
await page.goto(`${server.address}/pictures/${picture}/deliver`);
await page.getByRole('heading', { name: /^Deliver/ }).waitFor();
await keep('deliver');
await page.goto(`${server.address}/pictures/${picture}/check`);
await page.getByRole('heading', { name: /would be seen/ }).waitFor({ timeout: 120_000 });
await page.getByText(/still being measured/).waitFor({ state: 'detached', timeout: 120_000 });
await page.getByRole('button', { name: /hardly to be seen/ }).click();
await page
  .getByRole('button', { name: /repeats itself · fault 9/ })
  .first()
  .click();
await page.waitForTimeout(1500);
await keep('check');
await page.getByRole('button', { name: 'Whole picture' }).click();
await page.getByRole('radio', { name: 'Side by side' }).click();
await page.waitForTimeout(2500);
await keep('whole');
// The lighthouse in a wider format, the background drawn out.
await page.goto(`${server.address}/pictures/${picture}/frame`);
await page.getByLabel('Proportion').selectOption('16:9');
await page.getByRole('button', { name: 'Draw around it' }).click();
const sheet = (await page.getByRole('application').boundingBox())!;
const onSheet = (x: number, y: number): [number, number] => {
  const side = Math.min(sheet.width, sheet.height);
  return [sheet.x + sheet.width / 2 + (x - 0.5) * side, sheet.y + sheet.height / 2 + (y - 0.5) * side];
};
await page.mouse.move(...onSheet(0.65, 0.25));
await page.mouse.down();
await page.mouse.move(...onSheet(0.755, 0.5), { steps: 5 });
await page.mouse.up();
const stretched = page.getByRole('article', { name: 'Stretch the background' });
await stretched.getByRole('button', { name: 'Look at it' }).click();
await page.getByText('Looking for long lines').waitFor({ state: 'detached', timeout: 60_000 });
await page.waitForTimeout(2500);
// Every way is tried.
await page.waitForFunction(() => !/being (found|tried)/.test(document.body.innerText), undefined, { timeout: 180_000 });
await keep('frame');
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

// By hand: the crease over a window of the old print.
await page.goto(`${server.address}/pictures/${print}/bench`);
await closeUpReady(page);
const centre = async (x: number, y: number, scale: number) => {
  await page.evaluate(
    ([px, py, s]) =>
      (window as never as { tersumView: { centreOn(x: number, y: number, s: number): void } }).tersumView.centreOn(
        px,
        py,
        s,
      ),
    [x, y, scale],
  );
  await closeUpReady(page);
};
const drag = async (points: Array<[number, number]>) => {
  for (const [n, [x, y]] of points.entries()) {
    const at = await onPage(page, x, y);
    await page.mouse.move(at.x, at.y, { steps: n ? 8 : 1 });
    if (!n) await page.mouse.down();
  }
  await page.mouse.up();
};
await centre(2030, 1130, 1.4);
await page.keyboard.press('2');
await page.keyboard.press('q');
for (let n = 0; n < 4; n++) await page.keyboard.press('.');
await drag([
  [2088, 1166],
  [2092, 1166],
]);
await page.getByText('Proposed: copy').waitFor();
await page.getByRole('region', { name: 'Next step' }).getByRole('button', { name: 'Copy' }).click();
await page.getByRole('button', { name: /^Donor 1:/ }).waitFor();
await drag([
  [2090, 1148],
  [2090, 1186],
]);
await page.getByText('Pixels of the donor').waitFor();
const beside = await onPage(page, 2200, 1220);
await page.mouse.move(beside.x, beside.y);
await page.waitForTimeout(1500);
await keep('copy');
await page.keyboard.press('1');
await centre(2000, 1020, 1);
const clear = await onPage(page, 1700, 900);
await page.mouse.click(clear.x, clear.y);
await page.keyboard.press('8');
await centre(930, 1000, 1);
await drag([
  [850, 960],
  [1010, 960],
  [1010, 1110],
  [850, 1110],
  [850, 962],
]);
await centre(1500, 950, 0.6);
await drag([
  [930, 1030],
  [1940, 1040],
]);
await page.getByRole('button', { name: 'Solve pose' }).click();
await page.getByText(/Solved pose/).waitFor({ timeout: 60_000 });
await centre(2030, 1060, 1.2);
await keep('transplant');
await page.goto(`${server.address}/jobs/${panel.id}/intake`);
await page.getByRole('button', { name: 'To the bench' }).waitFor();
await keep('intake');
const bay = (await server.json<Job[]>('/jobs')).find((j) => j.pictures.length === 3)!;
await page.goto(`${server.address}/jobs/${bay.id}/intake`);
await page.getByRole('button', { name: 'Join frames…' }).click();
await page.getByRole('button', { name: 'Join 3 frames' }).click();
await page.getByText(/^Joined from/).waitFor({ timeout: 120_000 });
await page
  .getByRole('article', { name: /joined/ })
  .getByRole('button', { name: 'To the bench' })
  .click();
await closeUpReady(page);
await keep('join');
await browser.close();
await server.kill();
process.exit();
