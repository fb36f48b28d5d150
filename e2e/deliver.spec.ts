import { expect, test } from '@playwright/test';
import { encode } from 'fast-png';
import { TestServer } from './server.ts';

const server = new TestServer();
test.beforeAll(() => server.start());
test.afterAll(() => server.kill());

test('what could not be rendered is named before anything leaves; it is left out only when asked for', async ({
  page,
}) => {
  const [width, height] = [900, 600];
  const data = new Uint8Array(width * height * 3).map((_, i) => 120 + (((i * 2654435761) >>> 9) % 40));
  const { id: job } = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Wall' });
  const wall = encode({ width, height, data, channels: 3 });
  const { id } = await server.json<{ id: string }>(`/jobs/${job}/pictures?name=wall.png`, 'POST', wall);
  const shapes = [{ op: 'add', kind: 'box', x: 0, y: 0, width, height }];
  const state = await server.edit(id, { type: 'addFault', kind: 'object', shapes });
  // A blend that searches its donor itself, where nothing is left to search.
  const stroke = {
    points: [[450, 300, 1]],
    size: 3000,
    hardness: 1,
    flow: 1,
    opacity: 1,
    spacing: 0.2,
    pressure: 'none',
  };
  const spec = { method: 'blend', strokes: [stroke], donor: null, avoid: [] };
  const faultIds = [state.document.faults[0].id];
  await server.json(`/pictures/${id}/edits`, 'POST', { type: 'placeRepair', spec, faultIds, layerId: null });

  await page.goto(`${server.address}/pictures/${id}/deliver`);
  const alert = page.getByRole('alert');
  await expect(alert).toContainText('1 repair could not be rendered: fault 1.');
  await page.getByRole('button', { name: 'Export TIFF' }).click();
  await expect(alert).toContainText('1 repair is not in the picture as it should be: fault 1 (');
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Export TIFF without' }).click(),
  ]);
  expect(download.suggestedFilename()).toBe('wall repaired.tif');
  await page.getByRole('button', { name: 'Render again' }).click();
  await expect(alert).toContainText('could not be rendered');
});

test('a full disk is said in the words of the server, and what was drawn is saved once there is room', async ({
  page,
}) => {
  const data = new Uint8Array(600 * 400 * 3).fill(140);
  const { id: job } = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Full' });
  const plain = encode({ width: 600, height: 400, data, channels: 3 });
  const { id } = await server.json<{ id: string }>(`/jobs/${job}/pictures?name=p.png`, 'POST', plain);
  await page.goto(`${server.address}/pictures/${id}/bench`);
  await page.getByText('Saved', { exact: true }).waitFor();
  const message =
    'The disk is full: 3 MB free, 13 MB needed. Nothing was lost. Delete a picture or a job that is done.';
  await page.route('**/edits', (route) => route.fulfill({ status: 507, json: { message } }));
  await page.getByRole('button', { name: 'New layer' }).click();
  await expect(page.getByText(message)).toBeVisible();
  await expect(page.getByText(/not saved yet, trying again/)).toBeVisible();
  await page.unroute('**/edits');
  await expect(page.getByText('Saved', { exact: true })).toBeVisible({ timeout: 30_000 });
  expect((await server.json<{ document: { layers: unknown[] } }>(`/pictures/${id}`)).document.layers).toHaveLength(1);
});
