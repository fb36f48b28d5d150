import { expect, test, type Page } from '@playwright/test';
import type { Job } from '../src/contract/studio.ts';
import { closeUpReady, photoBytes } from './bench.ts';
import { flaws } from './flaws.ts';
import { TestServer } from './server.ts';

const server = new TestServer(undefined, {});
test.beforeAll(() => server.start());
test.afterAll(() => server.kill());

const VERBS = ['Look', 'Mark', 'Trace', 'Copy', 'Blend', 'Patch', 'Transplant', 'Shade', 'Reveal'];
const boxOf = async (page: Page) => (await page.getByTestId('close-up').boundingBox())!;
const verb = (page: Page, name: string) => page.getByRole('radio', { name, exact: true }).click();

/** A job's first picture, by the job's state. */
const pictureIn = async (state: Job['state']) =>
  (await server.json<Job[]>('/jobs')).find((j) => j.state === state)!.pictures[0].id;

test('the picture has more than 55 % of the window, and stays where it is whatever is chosen or done', async ({
  page,
}) => {
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.goto(`${server.address}/pictures/${await pictureIn('in work')}/bench`);
  await closeUpReady(page);
  const first = await boxOf(page);
  expect((first.width * first.height) / (1280 * 800)).toBeGreaterThan(0.55);
  const unmoved = async (when: string) => expect(await boxOf(page), when).toEqual(first);
  for (const chosen of [false, true]) {
    if (chosen) {
      await page
        .getByRole('button', { name: /^Fault \d+, .*, open/ })
        .first()
        .click();
      await closeUpReady(page);
      await unmoved('a fault is chosen');
    }
    for (const name of VERBS) {
      await verb(page, name);
      await unmoved(name);
    }
    await verb(page, 'Look');
  }
  await page.keyboard.press('3');
  await page.getByRole('button', { name: /^Try 1/ }).waitFor();
  await unmoved('while it is filled');
  await page.getByRole('button', { name: 'Accept, next' }).click();
  await closeUpReady(page);
  await unmoved('the next one');
});

test('columns fold and are drawn wider, and stay so; one key gives the picture the whole window', async ({ page }) => {
  await page.setViewportSize({ width: 1280, height: 800 });
  const address = `${server.address}/pictures/${await pictureIn('in work')}/bench`;
  await page.goto(address);
  await closeUpReady(page);
  const first = await boxOf(page);
  await page.getByRole('button', { name: 'Fold the worklist' }).click();
  await expect.poll(async () => (await boxOf(page)).x).toBeLessThan(4);
  await expect(page.getByLabel('Worklist', { exact: true })).toBeHidden();
  const edge = (await page.getByRole('separator', { name: 'Width of the treatment' }).boundingBox())!;
  await page.mouse.move(edge.x, edge.y + 300);
  await page.mouse.down();
  await page.mouse.move(edge.x - 80, edge.y + 300, { steps: 8 });
  await page.mouse.up();
  const then = await boxOf(page);
  expect(Math.abs(then.x + then.width - (first.x + first.width - 80))).toBeLessThan(3);
  await page.reload();
  await closeUpReady(page);
  expect(await boxOf(page)).toEqual(then);
  await page.getByRole('button', { name: 'Unfold the worklist' }).click();
  await expect.poll(async () => (await boxOf(page)).x).toBe(first.x);

  await page.keyboard.press('o');
  await expect.poll(() => boxOf(page)).toEqual({ x: 0, y: 0, width: 1280, height: 800 });
  await page.keyboard.press('o');
  await expect.poll(async () => (await boxOf(page)).x).toBe(first.x);
  await page.keyboard.press('o');
  await page.keyboard.press('Escape');
  await expect.poll(async () => (await boxOf(page)).x).toBe(first.x);
});

for (const [width, height] of [
  [1280, 800],
  [1024, 768],
  [1920, 1080],
])
  test(`no text is cut off and no control covered at ${width} × ${height}`, async ({ page }) => {
    test.setTimeout(180_000);
    await page.setViewportSize({ width, height });
    const sound = async (where: string) => expect(await flaws(page), where).toEqual([]);
    await page.goto(server.address);
    await page.getByRole('heading', { name: 'Jobs' }).waitFor();
    await sound('jobs');
    await page.getByRole('button', { name: 'New job' }).click();
    await sound('new job');
    await page.keyboard.press('Escape');
    await page.getByRole('link', { name: 'Headland, exhibition panel' }).click();
    await page.getByRole('button', { name: 'To the bench' }).waitFor();
    await sound('intake');
    const picture = await pictureIn('in work');
    await page.goto(`${server.address}/pictures/${picture}/survey`);
    await page.getByRole('button', { name: 'Survey', exact: true }).last().waitFor();
    await sound('survey');
    await page.goto(`${server.address}/pictures/${picture}/bench`);
    await closeUpReady(page);
    await sound('bench');
    for (const chosen of [/^Fault \d+, .*, open/, /^Fault \d+, .*, (treated|accepted)/]) {
      const row = page.getByRole('button', { name: chosen }).first();
      if (!(await row.isVisible())) await page.getByRole('button', { name: /done with$/ }).click();
      await row.click();
      await closeUpReady(page);
      for (const name of VERBS) {
        await verb(page, name);
        await sound(`${name}, ${chosen}`);
      }
      await verb(page, 'Look');
    }
    await page
      .getByRole('group', { name: /^Layer/ })
      .first()
      .click();
    await sound('layers');
    await page.getByRole('button', { name: 'Keys at the bench' }).click();
    await page.getByRole('dialog').waitFor();
    await sound('keys');
    await page.keyboard.press('Escape');
    await page.goto(`${server.address}/pictures/${picture}/deliver`);
    await page.getByRole('heading', { name: /^Deliver/ }).waitFor();
    await sound('deliver');
    await page.goto(`${server.address}/pictures/${picture}/check`);
    await page.getByRole('navigation', { name: 'Findings' }).waitFor();
    await sound('check');
  });

test('ten undos pressed quickly are ten steps, and show before the server has answered', async ({ page }) => {
  const job = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Ten steps' });
  const { id } = await server.json<{ id: string }>(`/jobs/${job.id}/pictures?name=s.jpg`, 'POST', photoBytes());
  await page.goto(`${server.address}/pictures/${id}/bench`);
  await closeUpReady(page);
  await page.keyboard.press('2');
  const box = await boxOf(page);
  const rows = page.getByRole('button', { name: /^Fault \d+,/ });
  for (let n = 0; n < 12; n++) await page.mouse.click(box.x + 60 + 50 * n, box.y + box.height / 2);
  await expect(rows).toHaveCount(12);
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  // From now on every answer takes a second.
  let slow = 1000;
  await page.route('**/undo', async (route) => {
    await new Promise((done) => setTimeout(done, slow));
    await route.continue();
  });
  const from = Date.now();
  for (let n = 0; n < 10; n++) await page.keyboard.press('Control+z');
  await expect(rows).toHaveCount(2, { timeout: 1000 });
  expect(Date.now() - from).toBeLessThan(2000);
  slow = 0;
  await expect(page.getByText('Saved', { exact: true })).toBeVisible({ timeout: 20_000 });
  const { document } = await server.json<{ document: { faults: unknown[] } }>(`/pictures/${id}`);
  expect(document.faults).toHaveLength(2);
  await expect(rows).toHaveCount(2);
});
