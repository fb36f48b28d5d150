import { expect, test } from '@playwright/test';
import { readFileSync } from 'node:fs';
import sharp from 'sharp';
import { closeUpReady, complaints, draw, onPage, PHOTO, photoBytes, triesReady } from './bench.ts';
import { TestServer } from './server.ts';

const server = new TestServer();
test.beforeAll(() => server.start());
test.afterAll(() => server.kill());

test('a photograph comes in, loses a thing, survives a stop of the server and goes out with its other bits as they were', async ({
  page,
}) => {
  const said = complaints(page);
  await page.goto(server.address);
  await page.getByRole('button', { name: 'New job' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Harbour');
  await page.getByRole('button', { name: 'Make job' }).click();
  await page.locator('input[type=file]').setInputFiles(PHOTO);
  await expect(
    page.getByText('1 024 × ', { exact: false }).or(page.getByText('1\u202f024 × ', { exact: false })),
  ).toBeVisible();
  await page.getByRole('button', { name: 'To the bench' }).click();
  await closeUpReady(page);

  // Mark with the brush, in three strokes of one fault, one of them taken away again.
  await page.keyboard.press('2');
  await draw(page, [
    [300, 420],
    [340, 430],
  ]);
  const row = page
    .getByRole('button', { name: 'Fault 1, object, open' })
    .or(page.getByRole('button', { name: 'Fault 1, speck, open' }));
  await expect(row).toBeVisible();
  await page
    .getByRole('radio', { name: 'Add to it' })
    .or(page.getByRole('button', { name: 'Add to it' }))
    .click();
  await draw(page, [
    [340, 430],
    [380, 420],
  ]);
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();

  // Three tries that differ; another is chosen, then weakened.
  await page.getByRole('toolbar', { name: 'Verbs' }).getByRole('button', { name: 'Fill' }).click();
  await triesReady(page, 3);
  const thumbs = page.getByRole('list', { name: 'Tries' }).locator('img');
  await expect(thumbs).toHaveCount(3);
  await expect
    .poll(() => thumbs.evaluateAll((all) => all.map((i) => (i as HTMLImageElement).naturalWidth > 20)))
    .toEqual([true, true, true]);
  const id = page.url().split('/').at(-2)!;
  const api = <T>(path: string) => server.json<T>(`/pictures/${id}${path}`);
  interface Seen {
    document: {
      repairs: Array<{ strength: number; visible: boolean; chosen: string; tries: Array<{ id: string }> }>;
      faults: unknown[];
    };
  }
  const look = async () => (await api<Seen>('')).document;
  await page.getByRole('button', { name: /^Try 2/ }).click();
  await expect.poll(async () => (await look()).repairs[0].chosen).toBe((await look()).repairs[0].tries[1].id);
  const strength = page.getByRole('slider', { name: 'Strength' });
  await strength.focus();
  for (let n = 0; n < 40; n++) await strength.press('ArrowLeft');
  await expect.poll(async () => (await look()).repairs[0].strength).toBeCloseTo(0.6);

  // Three more never lose the earlier ones.
  await page.getByRole('button', { name: 'Three more' }).click();
  await triesReady(page, 6);

  // Hidden, shown again by undo.
  await page.getByRole('button', { name: 'Hide', exact: true }).click();
  await expect.poll(async () => (await look()).repairs[0].visible).toBe(false);
  await page.getByRole('button', { name: /^Undo/ }).click();
  await expect.poll(async () => (await look()).repairs[0].visible).toBe(true);

  const before = await server.bytes(`/pictures/${id}/export?format=png`);
  await server.restart();
  await page.goto(`${server.address}/pictures/${id}/bench`);
  await closeUpReady(page);
  await page.getByRole('button', { name: /^Fault 1/ }).click();
  await expect(page.getByRole('button', { name: /^Try \d+/ })).toHaveCount(6);
  await expect(page.getByRole('slider', { name: 'Strength' })).toHaveValue('60');
  await expect(page.getByRole('button', { name: /^Undo: / })).toBeEnabled();

  // Deliver: every pixel outside the repair as in the file that came in, some inside changed.
  await page.getByRole('link', { name: 'Deliver' }).click();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Export PNG' }).click(),
  ]);
  const file = readFileSync((await download.path())!);
  expect(file.equals(before)).toBe(true);
  const got = await sharp(file).raw().toBuffer({ resolveWithObject: true });
  const came = await sharp(photoBytes()).toColourspace('srgb').raw().toBuffer({ resolveWithObject: true });
  expect(got.info).toMatchObject({ width: came.info.width, height: came.info.height });
  let inside = 0;
  let outside = 0;
  for (let y = 0; y < got.info.height; y++) {
    for (let x = 0; x < got.info.width; x++) {
      const near = x > 270 && x < 410 && y > 390 && y < 460;
      for (let c = 0; c < 3; c++) {
        const a = got.data[(y * got.info.width + x) * got.info.channels + c];
        const b = came.data[(y * came.info.width + x) * came.info.channels + c];
        if (a === b) continue;
        if (near) inside++;
        else outside++;
      }
    }
  }
  expect(outside).toBe(0);
  expect(inside).toBeGreaterThan(1000);
  expect(said.filter((s) => !/ERR_CONNECTION|ERR_INCOMPLETE|Tile .* failed to load/.test(s))).toEqual([]);
});

test('shapes: box, outline, corners, strand and brush each make a fault; donor and barred areas steer the fill; several are filled as one', async ({
  page,
}) => {
  const job = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Shapes' });
  const { id } = await server.json<{ id: string }>(`/jobs/${job.id}/pictures?name=s.jpg`, 'POST', photoBytes());
  await page.goto(`${server.address}/pictures/${id}/bench`);
  await closeUpReady(page);
  await page.keyboard.press('r');
  await draw(page, [
    [100, 100],
    [140, 130],
  ]);
  await expect(page.getByRole('button', { name: /^Fault 1, object/ })).toBeVisible();
  await page.keyboard.press('w');
  await draw(page, [
    [200, 100],
    [240, 100],
    [240, 140],
    [200, 140],
  ]);
  await expect(page.getByRole('button', { name: /^Fault 2, object/ })).toBeVisible();
  await page.keyboard.press('e');
  for (const [x, y] of [
    [300, 100],
    [340, 100],
    [320, 140],
  ] as const) {
    const at = await onPage(page, x, y);
    await page.mouse.click(at.x, at.y);
  }
  await page.getByRole('button', { name: 'Finish' }).click();
  await expect(page.getByRole('button', { name: /^Fault 3, object/ })).toBeVisible();
  await page.keyboard.press('t');
  for (const [x, y] of [
    [400, 100],
    [500, 120],
  ] as const) {
    const at = await onPage(page, x, y);
    await page.mouse.click(at.x, at.y);
  }
  await page.getByRole('button', { name: 'Finish' }).click();
  await expect(page.getByRole('button', { name: /^Fault 4, strand/ })).toBeVisible();
  await page.keyboard.press('q');
  await draw(page, [[600, 100]]);
  await expect(page.getByRole('button', { name: /^Fault 5, speck/ })).toBeVisible();

  // Faults 1 and 2 as one, with donors from a box only.
  await page.getByRole('button', { name: /^Fault 1,/ }).click();
  await page.getByRole('checkbox', { name: 'Also take fault 2' }).check({ force: true });
  await page.keyboard.press('u');
  await page.keyboard.press('r');
  await page.keyboard.press('Home');
  await closeUpReady(page);
  await draw(page, [
    [150, 200],
    [330, 330],
  ]);
  await expect(page.getByText('Donors only from the donor area.')).toBeVisible();
  await page.getByRole('button', { name: 'Fill as one' }).click();
  await triesReady(page, 3);
  const { document } = await server.json<{
    document: {
      repairs: Array<{ faultIds: string[]; tries: Array<{ spec: { donorArea: unknown[] } }> }>;
      faults: Array<{ state: string }>;
    };
  }>(`/pictures/${id}`);
  expect(document.repairs).toHaveLength(1);
  expect(document.repairs[0].faultIds).toHaveLength(2);
  expect(document.repairs[0].tries[0].spec.donorArea).toHaveLength(1);
  expect(document.faults.map((f) => f.state)).toEqual(['treated', 'treated', 'open', 'open', 'open']);

  // Layers: rename, opacity, order, delete, all undone one by one.
  const name = page.getByLabel(/^Name of layer/);
  await name.fill('Left boats');
  await name.press('Enter');
  await page.getByRole('button', { name: 'New layer' }).click();
  await page.getByRole('button', { name: 'Move Left boats up' }).click();
  await page.getByRole('button', { name: 'Delete layer Left boats' }).click();
  const layers = async () =>
    (await server.json<{ document: { layers: Array<{ name: string }>; repairs: unknown[] } }>(`/pictures/${id}`))
      .document;
  await expect.poll(async () => (await layers()).repairs.length).toBe(0);
  for (let n = 0; n < 4; n++) {
    await page.keyboard.press('Control+z');
    await page.waitForTimeout(250);
  }
  await expect.poll(async () => (await layers()).layers.map((l) => l.name)).toEqual(['Objects']);
  expect((await layers()).repairs).toHaveLength(1);
});

test('a server that is away: the bench says that it could not save, tries again and saves', async ({ page }) => {
  const job = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Away' });
  const { id } = await server.json<{ id: string }>(`/jobs/${job.id}/pictures?name=s.jpg`, 'POST', photoBytes());
  await page.goto(`${server.address}/pictures/${id}/bench`);
  await closeUpReady(page);
  await page.route('**/edits', (route) => route.abort());
  await page.keyboard.press('2');
  await draw(page, [
    [500, 300],
    [520, 300],
  ]);
  await expect(page.getByText(/not saved yet, trying again/)).toBeVisible();
  await page.unroute('**/edits');
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  await expect(page.getByRole('button', { name: /^Fault 1/ })).toBeVisible();
});
