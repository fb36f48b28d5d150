import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { closeUpReady, complaints, photoBytes } from './bench.ts';
import { TestServer } from './server.ts';

const server = new TestServer(undefined, {});
test.beforeAll(() => server.start());
test.afterAll(() => server.kill());

/** No serious finding of the accessibility rules (WCAG 2.2 A and AA, by axe-core), nothing wider than the window. */
async function sound(page: Page): Promise<void> {
  const { violations } = await new AxeBuilder({ page })
    .withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'])
    .analyze();
  const serious = violations.filter((v) => v.impact === 'serious' || v.impact === 'critical');
  expect(serious.map((v) => `${v.id}: ${v.nodes.map((n) => n.html).join(' | ')}`)).toEqual([]);
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(1280);
}

test('every screen of the demo studio is accessible and silent', async ({ page }) => {
  const said = complaints(page);
  await page.goto(server.address);
  for (const state of ['new', 'in work', 'delivered'])
    await expect(page.getByText(state, { exact: true }).first()).toBeVisible();
  await sound(page);
  await page.getByRole('button', { name: 'New job' }).click();
  await sound(page);
  await page.keyboard.press('Escape');
  await page.getByRole('link', { name: 'Headland, exhibition panel' }).click();
  await page.getByRole('button', { name: 'To the bench' }).waitFor();
  await sound(page);
  await page.getByRole('button', { name: 'To the bench' }).click();
  await closeUpReady(page);
  await sound(page);
  // The bench shows without scrolling at 1280 × 800.
  expect(await page.evaluate(() => document.documentElement.scrollHeight)).toBeLessThanOrEqual(800);
  await page.getByRole('button', { name: /done with$/ }).click();
  await sound(page);
  await page.getByRole('button', { name: /^Fault 8/ }).click();
  await expect(page.getByRole('region', { name: 'Treatment' })).toContainText('across');
  await page.keyboard.press('2');
  await sound(page);
  await page.keyboard.press('?');
  await page.getByRole('dialog').waitFor();
  await sound(page);
  await page.keyboard.press('Escape');
  await page.getByRole('link', { name: 'Frame' }).click();
  await page.getByRole('article', { name: 'Crop' }).waitFor();
  await sound(page);
  await page.getByRole('link', { name: 'Deliver' }).click();
  await page.getByRole('heading', { name: /^Deliver/ }).waitFor();
  await sound(page);
  await page.goto(`${server.address}/nowhere`);
  await sound(page);
  expect(said).toEqual([]);
});

test('a file that is no picture is refused in words, and the job stays as it was', async ({ page }) => {
  await page.goto(server.address);
  await page.getByRole('button', { name: 'New job' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Refusals');
  await page.getByRole('button', { name: 'Make job' }).click();
  await page.locator('input[type=file]').setInputFiles({
    name: 'letter.jpg',
    mimeType: 'image/jpeg',
    buffer: Buffer.from('Dear Trust, please find enclosed nothing.'),
  });
  await expect(page.getByText(/letter\.jpg: /)).toBeVisible();
  await expect(page.getByText(/letter\.jpg: .*(JPEG|picture)/)).toBeVisible();
  await page.getByRole('button', { name: 'Put away' }).click();
  await expect(page.getByText(/letter\.jpg/)).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'To the bench' })).toHaveCount(0);
});

test('after intake the next step is named; a picture is taken out again, asked first', async ({ page }) => {
  const job = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Two of them' });
  for (const name of ['first.jpg', 'second.jpg'])
    await server.json(`/jobs/${job.id}/pictures?name=${name}`, 'POST', photoBytes());
  await page.goto(`${server.address}/jobs/${job.id}/intake`);
  const second = page.getByRole('article', { name: 'second.jpg' }).or(page.getByLabel('second.jpg', { exact: true }));
  await expect(second.first()).toContainText('Next: let it be looked over');
  await page.getByRole('button', { name: 'Remove second.jpg' }).click();
  await page.getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByRole('button', { name: 'Remove second.jpg' })).toBeFocused();
  await page.getByRole('button', { name: 'Remove second.jpg' }).click();
  await sound(page);
  await page.getByRole('button', { name: 'Remove for good' }).click();
  await expect(page.getByRole('button', { name: 'Remove second.jpg' })).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'Remove first.jpg' })).toBeVisible();
  await page.getByRole('button', { name: 'Survey', exact: true }).click();
  await expect(page).toHaveURL(/survey$/);
});
