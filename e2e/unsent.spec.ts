import { expect, test, type Page } from '@playwright/test';
import type { PictureState } from '../src/contract/api.ts';
import { closeUpReady, draw, photoBytes, setDonor } from './bench.ts';
import { TestServer } from './server.ts';

const server = new TestServer();
test.beforeAll(() => server.start());
test.afterAll(() => server.kill());

async function open(page: Page, name: string): Promise<string> {
  const job = await server.json<{ id: string }>('/jobs', 'POST', { name });
  const { id } = await server.json<{ id: string }>(`/jobs/${job.id}/pictures?name=s.jpg`, 'POST', photoBytes());
  await page.goto(`${server.address}/pictures/${id}/bench`);
  await closeUpReady(page);
  return id;
}
const look = (id: string) => server.json<PictureState>(`/pictures/${id}`);
const strokesOf = ({ document }: PictureState) =>
  document.repairs.flatMap((r) => r.tries.flatMap(({ spec }) => ('strokes' in spec ? [spec.strokes.length] : [])));
const line = (x: number, y: number): Array<[number, number]> => [
  [x, y],
  [x + 30, y + 4],
];

test('strokes painted while the connection is away, with the verb changed meanwhile, are all there when it is back', async ({
  page,
}) => {
  const id = await open(page, 'Away');
  await page.route('**/edits', (route) => route.abort());
  await page.keyboard.press('4');
  await setDonor(page, 500, 300);
  for (const y of [300, 320, 340]) await draw(page, line(400, y));
  await page.keyboard.press('2');
  await draw(page, line(620, 200));
  await expect(page.getByText('4 not saved yet, trying again')).toBeVisible();
  await page.keyboard.press('1');
  await page.unroute('**/edits');
  await expect(page.getByText('Saved', { exact: true })).toBeVisible({ timeout: 20_000 });
  const state = await look(id);
  expect(strokesOf(state)).toEqual([3]);
  expect(state.document.faults).toHaveLength(2);
});

test('what is not saved yet outlives the window, and is saved once', async ({ page }) => {
  const id = await open(page, 'Reloaded');
  // It arrives, but the answer is lost.
  await page.route('**/edits', async (route) => {
    await route.fetch();
    await route.abort();
  });
  await page.keyboard.press('4');
  await setDonor(page, 500, 300);
  for (const y of [300, 330]) await draw(page, line(400, y));
  await expect(page.getByText('2 not saved yet, trying again')).toBeVisible();
  await page.reload();
  // Shown at once, before anything of it is answered.
  await expect(page.getByRole('button', { name: /^Fault 1/ })).toBeVisible();
  await expect(page.getByText('2 not saved yet, trying again')).toBeVisible();
  await page.unroute('**/edits');
  await expect(page.getByText('Saved', { exact: true })).toBeVisible({ timeout: 20_000 });
  await expect.poll(async () => strokesOf(await look(id))).toEqual([2]);
  await expect(page.getByRole('button', { name: /^Fault 1/ })).toBeVisible();
});
