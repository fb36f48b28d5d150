import { expect, test, type Page } from '@playwright/test';
import { closeUpReady, complaints, photoBytes, PHOTO, triesReady } from './bench.ts';
import { TestServer } from './server.ts';

const server = new TestServer();
test.beforeAll(() => server.start());
test.afterAll(() => server.kill());

/** Tabs on until the wanted control has the focus. */
async function tabTo(page: Page, name: RegExp): Promise<void> {
  for (let n = 0; n < 80; n++) {
    const now = await page.evaluate(() => {
      const e = document.activeElement as HTMLElement | null;
      return e ? (e.getAttribute('aria-label') ?? e.textContent ?? '') : '';
    });
    if (name.test(now.trim())) return;
    await page.keyboard.press('Tab');
  }
  throw new Error(`The keyboard does not reach ${name}.`);
}

/** The server has what was done, and the page has the server's answer. */
const saved = (page: Page) => expect(page.getByText('Saved', { exact: true })).toBeVisible();

test('the main job by keyboard alone', async ({ page }) => {
  const said = complaints(page);
  await page.goto(server.address);
  await page.getByRole('heading', { name: 'Jobs' }).waitFor();
  await tabTo(page, /^New job$/);
  await page.keyboard.press('Enter');
  await page.keyboard.type('By keys');
  await page.keyboard.press('Enter');
  // The list, too, shows the new job for a moment, with a button of nearly the same name: wait for its own page.
  await page.waitForURL(/\/intake$/);
  await page.getByRole('heading', { name: 'By keys' }).waitFor();
  await tabTo(page, /^Add pictures…$/);
  const [chooser] = await Promise.all([page.waitForEvent('filechooser'), page.keyboard.press('Enter')]);
  await chooser.setFiles(PHOTO);
  await page.getByRole('button', { name: 'To the bench' }).waitFor();
  await tabTo(page, /^To the bench$/);
  await page.keyboard.press('Enter');
  await closeUpReady(page);

  // Look about: nearer, to the left, mark a dab at the cross, make it larger by a strand.
  await page.evaluate(() => (document.activeElement as HTMLElement).blur());
  await page.keyboard.press('2');
  await page.keyboard.press('+');
  await page.keyboard.press('ArrowLeft');
  await page.keyboard.press('Shift+ArrowUp');
  await closeUpReady(page);
  await page.keyboard.press(' ');
  await expect(page.getByRole('button', { name: /^Fault 1, speck, open/ })).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('s');
  await page.keyboard.press('t');
  await page.keyboard.press(' ');
  for (let n = 0; n < 3; n++) await page.keyboard.press('ArrowRight');
  await closeUpReady(page);
  await page.keyboard.press(' ');
  await page.keyboard.press('Enter');
  const id = page.url().split('/').at(-2)!;
  interface Doc {
    document: {
      faults: Array<{ state: string; shapes: unknown[] }>;
      repairs: Array<{ strength: number; visible: boolean; chosen: string; tries: Array<{ id: string }> }>;
    };
  }
  const look = async () => (await server.json<Doc>(`/pictures/${id}`)).document;
  await expect.poll(async () => (await look()).faults[0].shapes.length).toBe(2);

  await page.keyboard.press('3');
  await triesReady(page, 3);
  // The check may put another try in use than the first, until something is done by hand.
  const [first] = (await look()).repairs;
  await page.keyboard.press('y');
  await expect.poll(async () => (await look()).repairs[0].chosen).not.toBe(first.chosen);
  for (let n = 0; n < 3; n++) {
    await page.keyboard.press('[');
    await expect.poll(async () => (await look()).repairs[0].strength).toBeCloseTo(1 - 0.1 * (n + 1));
  }
  await page.keyboard.press('h');
  await saved(page);
  await expect.poll(async () => (await look()).repairs[0].visible).toBe(false);
  await page.keyboard.press('Control+z');
  await saved(page);
  await expect.poll(async () => (await look()).repairs[0].visible).toBe(true);
  await page.keyboard.press('Control+Shift+z');
  await saved(page);
  await expect.poll(async () => (await look()).repairs[0].visible).toBe(false);
  await page.keyboard.press('h');
  await saved(page);
  await expect.poll(async () => (await look()).repairs[0].visible).toBe(true);

  // Before is seen while B is held; the divider moves by arrows; difference goes on and off.
  await page.keyboard.press('v');
  const divider = page.getByRole('slider', { name: /Divider/ });
  await expect(divider).toBeVisible();
  await divider.focus();
  await page.keyboard.press('ArrowRight');
  await expect(divider).toHaveAttribute('aria-valuenow', '52');
  await page.evaluate(() => (document.activeElement as HTMLElement).blur());
  await page.keyboard.press('c');
  await expect(page.getByRole('radio', { name: 'Difference' })).toBeChecked();
  await page.keyboard.press('c');
  await page.keyboard.press('1');
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await look()).faults[0].state).toBe('accepted');
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys at the bench' })).toBeVisible();
  await page.keyboard.press('Escape');

  await page.getByRole('link', { name: 'Deliver' }).focus();
  await page.keyboard.press('Enter');
  await page.getByRole('heading', { name: /^Deliver/ }).waitFor();
  await tabTo(page, /^Export TIFF$/);
  const [download] = await Promise.all([page.waitForEvent('download'), page.keyboard.press('Enter')]);
  expect(download.suggestedFilename()).toBe('By keys image v1.tif');
  expect(said).toEqual([]);
});

test('holding B shows the picture as it came, letting go the repaired one', async ({ page }) => {
  const job = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Before' });
  const { id } = await server.json<{ id: string }>(`/jobs/${job.id}/pictures?name=s.jpg`, 'POST', photoBytes());
  await page.goto(`${server.address}/pictures/${id}/bench`);
  await closeUpReady(page);
  await page.keyboard.press('2');
  await page.keyboard.press(' ');
  await page.getByRole('button', { name: /^Fault 1/ }).waitFor();
  await page.keyboard.press('3');
  await triesReady(page, 3);
  await page.keyboard.press('m');
  await page.keyboard.press('1');
  await page.mouse.move(5, 5);
  const shot = async () => {
    await closeUpReady(page);
    await page.waitForTimeout(600);
    return page.getByTestId('close-up').screenshot();
  };
  const after = await shot();
  await page.keyboard.down('b');
  const before = await shot();
  await page.keyboard.up('b');
  expect(before.equals(after)).toBe(false);
  expect((await shot()).equals(after)).toBe(true);
});
