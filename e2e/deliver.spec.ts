import { expect, test } from '@playwright/test';
import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { decode, encode } from 'fast-png';
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
  expect(download.suggestedFilename()).toBe('Wall wall v1.tif');
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

test('what leaves is noted with its record; a file is verified by it, and a changed pixel is caught', async ({
  page,
}) => {
  const [width, height] = [320, 240];
  const data = new Uint8Array(width * height * 3).map((_, i) => 120 + (((i * 2654435761) >>> 9) % 40));
  const { id: job } = await server.json<{ id: string }>('/jobs', 'POST', {
    name: 'Wall',
    client: 'Skerrow Light Trust',
  });
  const wall = encode({ width, height, data, channels: 3 });
  const { id } = await server.json<{ id: string }>(`/jobs/${job}/pictures?name=wall.png`, 'POST', wall);
  const shapes = [{ op: 'add', kind: 'brush', points: [[160, 120]], size: 14 }];
  const { document } = await server.edit(id, { type: 'addFault', kind: 'speck', shapes });
  await server.json(`/pictures/${id}/fills`, 'POST', { faultIds: [document.faults[0].id] });
  await server.json(`/pictures/${id}/export/ready`);

  await page.goto(`${server.address}/pictures/${id}/deliver`);
  await expect(page.getByText('Nothing yet. Every picture that leaves is noted here')).toBeVisible();
  await page.getByLabel('Repaired by').fill('M. Aird');
  await page.getByLabel('Repaired by').press('Enter');
  await page.getByLabel('File name').fill('{job} {picture} {version} {colour}');
  await page.getByLabel('File name').press('Enter');
  await expect(page.getByText('{colour} means nothing')).toBeVisible();
  await page.getByLabel('File name').fill('{job} {picture} {version}');
  await page.getByLabel('File name').press('Enter');
  await expect(page.getByText('Wall wall 1.tif')).toBeVisible();
  await expect(page.getByLabel('Disclosure')).toHaveValue(/^Damage was repaired: 1 speck\./);

  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Export PNG' }).click(),
  ]);
  expect(download.suggestedFilename()).toBe('Wall wall 1.png');
  const left = page.getByRole('region', { name: 'Wall wall 1.png' });
  await expect(left).toContainText('Version 1');
  const [record] = await Promise.all([
    page.waitForEvent('download'),
    left.getByRole('button', { name: 'Record of Wall wall 1.png, JSON' }).click(),
  ]);
  expect(record.suggestedFilename()).toBe('Wall wall 1.png.record.json');

  const verify = async (buffer: Buffer) => {
    const [chooser] = await Promise.all([
      page.waitForEvent('filechooser'),
      left.getByRole('button', { name: 'Verify a file against the record of Wall wall 1.png' }).click(),
    ]);
    await chooser.setFiles({ name: 'wall.png', mimeType: 'image/png', buffer });
  };
  const file = await readFile(await download.path());
  await verify(file);
  await expect(left.getByText('Original, record and file belong together.')).toBeVisible();
  const { data: pixels } = decode(file);
  pixels[3 * (30 * width + 40)] ^= 1;
  await verify(Buffer.from(encode({ width, height, channels: 3, data: pixels as Uint8Array })));
  await expect(left.getByText('They do not belong together.')).toBeVisible();
  await expect(left.getByText('1 pixel differs, the first at 40, 30')).toBeVisible();

  // The whole job goes to the client, and what the client sends back is offered.
  await page.getByLabel('Note to Skerrow Light Trust').fill('With thanks.');
  await page.getByRole('button', { name: 'Send all to the letterbox' }).click();
  await expect(page.getByText('It lies in the letterbox, with records.').first()).toBeVisible();
  await expect(page.getByText('“Wall” is delivered.')).toBeVisible();
  await mkdir(join(server.data, 'letterbox', 'Skerrow Light Trust', 'in'), { recursive: true });
  await writeFile(join(server.data, 'letterbox', 'Skerrow Light Trust', 'in', 'second wall.png'), wall);
  await page.goto(`${server.address}/jobs/${job}/intake`);
  await page.getByRole('button', { name: 'Take in second wall.png' }).click();
  await expect(page.getByRole('heading', { name: 'second wall.png' })).toBeVisible();
  await expect(page.getByRole('region', { name: 'Letterbox' })).toBeHidden();
});
