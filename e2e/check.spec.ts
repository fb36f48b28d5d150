import { expect, test, type Page } from '@playwright/test';
import sharp from 'sharp';
import type { PictureState } from '../src/contract/api.ts';
import type { Delivery } from '../src/contract/hand-over.ts';
import type { RepairRecord } from '../src/contract/record.ts';
import type { Point } from '../src/core/mask/shapes.ts';
import { closeUpReady } from './bench.ts';
import { TestServer } from './server.ts';

const server = new TestServer();
test.beforeAll(() => server.start());
test.afterAll(() => server.kill());

const [WIDTH, HEIGHT] = [640, 480];

/** A grainy ground that gets lighter downwards, with a dark disc of a hard edge. */
async function disc(): Promise<Buffer> {
  const data = Buffer.alloc(WIDTH * HEIGHT * 3);
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++) {
      const ground = 120 + y / 12 + (((i * 2654435761) >>> 9) % 12);
      data.fill(Math.hypot(x - 320, y - 240) < 48 ? 40 : Math.round(ground), 3 * i, 3 * i + 3);
    }
  const raw = { width: WIDTH, height: HEIGHT, channels: 3 as const };
  return sharp(data, { raw }).png().toBuffer();
}

/** Delivers a picture that was checked, and verifies what left by its record. */
async function deliveredAndVerified(page: Page, id: string): Promise<void> {
  await page.getByRole('button', { name: 'Deliver' }).click();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Export PNG' }).click(),
  ]);
  const left = page.getByRole('region', { name: download.suggestedFilename() });
  const [chooser] = await Promise.all([
    page.waitForEvent('filechooser'),
    left.getByRole('button', { name: /^Verify a file/ }).click(),
  ]);
  await chooser.setFiles(await download.path());
  await expect(left.getByText('Original, record and file belong together.')).toBeVisible({ timeout: 20_000 });
  const [delivery] = await server.json<Delivery[]>(`/pictures/${id}/deliveries`);
  const record = await server.json<RepairRecord>(`/deliveries/${delivery.id}/record`);
  expect(record.repairs.flatMap((r) => r.findings).filter((f) => f.severity >= 0.5)).toEqual([]);
}

test('what is left beside a cover is found, followed to the bench, remedied, and the check is clean', async ({
  page,
}) => {
  const job = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Check' });
  const { id } = await server.json<{ id: string }>(`/jobs/${job.id}/pictures?name=c.png`, 'POST', await disc());
  const state = () => server.json<PictureState>(`/pictures/${id}`);
  const points = Array.from({ length: 40 }, (_, n): Point => {
    const a = (n / 40) * 2 * Math.PI;
    return [320 + 42 * Math.cos(a), 240 + 42 * Math.sin(a)];
  });
  // Marked too small, and the margin that is proposed for that taken back.
  await server.edit(id, { type: 'addFault', kind: 'object', shapes: [{ op: 'add', kind: 'outline', points }] });
  const [fault] = (await state()).document.faults;
  await server.edit(id, { type: 'changeFault', id: fault.id, set: { margin: 1 } });
  await server.json(`/pictures/${id}/fills`, 'POST', { faultIds: [fault.id] });

  await page.goto(`${server.address}/pictures/${id}/check`);
  await expect(page.getByRole('heading', { name: /would be seen/ })).toBeVisible({ timeout: 20_000 });
  const row = page.getByRole('button', { name: /bits left · fault 1/ }).first();
  await row.click();
  await expect(page.getByRole('img', { name: 'The place before its repair' })).toBeVisible();
  await expect(page.getByText('Widen the margin')).toBeVisible();

  await page.getByRole('button', { name: 'Go to the bench' }).click();
  await closeUpReady(page);
  await expect(page.getByRole('button', { name: 'Fault 1, object, look again' })).toHaveAttribute(
    'aria-pressed',
    'true',
  );
  // The remedy stands in the line of hints.
  await expect(page.getByText('Check: bits left. Widen the margin')).toBeVisible();
  await server.edit(id, { type: 'changeFault', id: fault.id, set: { margin: 12 } });
  await expect(page.getByRole('button', { name: 'Fault 1, object, treated' })).toBeVisible({ timeout: 20_000 });

  await page.getByRole('link', { name: 'Check' }).click();
  await expect(page.getByRole('heading', { name: 'Nothing gives this picture away' })).toBeVisible();
  await deliveredAndVerified(page, id);
});

test('a piece that was copied in from beside is found; filled with that barred, the check is clean, and what leaves is verified', async ({
  page,
}) => {
  const { data, info } = await sharp(await disc())
    .raw()
    .toBuffer({ resolveWithObject: true });
  // Something that catches the eye, of several tones, beside the disc.
  for (let y = -26; y <= 26; y++)
    for (let x = -26; x <= 26; x++) {
      if (Math.hypot(x, y) > 26) continue;
      const cell = Math.imul(Math.floor((x + 40) / 4) * 31 + Math.floor((y + 40) / 4) * 57, 2654435761) >>> 24;
      const v = 90 + cell / 2 + ((Math.imul(x * 31 + y * 57, 2654435761) >>> 28) & 15);
      data.fill(Math.round(v), 3 * ((240 + y) * WIDTH + 180 + x), 3 * ((240 + y) * WIDTH + 180 + x) + 3);
    }
  const job = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Repeat' });
  const file = await sharp(data, { raw: info }).png().toBuffer();
  const { id } = await server.json<{ id: string }>(`/jobs/${job.id}/pictures?name=r.png`, 'POST', file);
  const cover = [{ op: 'add' as const, kind: 'brush' as const, points: [[320, 240]], size: 104 }];
  await server.edit(id, { type: 'addFault', kind: 'object', shapes: cover });
  const [fault] = (await server.json<PictureState>(`/pictures/${id}`)).document.faults;
  const spec = (from: Point) => ({
    method: 'patch',
    cover,
    feather: 4,
    blended: true,
    donor: { from, at: [320, 240], travels: false, turn: 0, scale: 1, mirror: 'none' },
  });
  const place = { type: 'placeRepair', spec: spec([180, 240]), faultIds: [fault.id], layerId: null };
  const { document } = await server.edit(id, place);

  await page.goto(`${server.address}/pictures/${id}/check`);
  await page.getByRole('button', { name: /repeats itself · fault 1 .*140 px apart/ }).click({ timeout: 20_000 });
  await expect(page.getByText('Bar the place it was taken from')).toBeVisible();
  await page.getByRole('button', { name: 'Go to the bench' }).click();
  await closeUpReady(page);
  await server.edit(id, { type: 'removeRepair', id: document.repairs[0].id });
  const barred = [{ op: 'add', kind: 'box', x: 145, y: 205, width: 70, height: 70 }];
  await server.json(`/pictures/${id}/fills`, 'POST', { faultIds: [fault.id], barred });
  await server.json(`/pictures/${id}/export/ready`);
  await page.getByRole('link', { name: 'Check' }).click();
  await expect(page.getByRole('heading', { name: 'Nothing gives this picture away' })).toBeVisible({ timeout: 20_000 });
  await deliveredAndVerified(page, id);
});

test('a finding is accepted as it is with a reason, which is kept and can be taken back', async ({ page }) => {
  const job = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Accept' });
  const { id } = await server.json<{ id: string }>(`/jobs/${job.id}/pictures?name=a.png`, 'POST', await disc());
  const shapes = [{ op: 'add', kind: 'brush', points: [[320, 240]], size: 84 }];
  await server.edit(id, { type: 'addFault', kind: 'object', shapes });
  const [fault] = (await server.json<PictureState>(`/pictures/${id}`)).document.faults;
  await page.goto(`${server.address}/pictures/${id}/check`);
  // An open fault that would be seen is unfinished.
  await expect(page.getByRole('button', { name: /not finished · fault 1/ })).toBeVisible();
  await server.edit(id, { type: 'changeFault', id: fault.id, set: { margin: 1 } });
  await server.json(`/pictures/${id}/fills`, 'POST', { faultIds: [fault.id] });
  await page
    .getByRole('button', { name: /bits left · fault 1/ })
    .first()
    .click({ timeout: 20_000 });
  await page.getByLabel('Why it may stay').fill('the client likes it');
  await page.getByRole('button', { name: 'Accept as it is' }).click();
  await expect(page.getByText('Accepted: the client likes it')).toBeVisible();
  await expect(page.getByRole('heading', { name: 'Nothing would be seen' })).toBeVisible();
  await page.getByRole('button', { name: 'Take acceptance back' }).click();
  await expect(page.getByRole('heading', { name: /\d would be seen/ })).toBeVisible();
});

test('the whole picture is compared in several ways and flown over; what is seen there is marked', async ({ page }) => {
  const job = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Whole' });
  const { id } = await server.json<{ id: string }>(`/jobs/${job.id}/pictures?name=w.png`, 'POST', await disc());
  const shapes = [{ op: 'add', kind: 'brush', points: [[320, 240]], size: 104 }];
  await server.edit(id, { type: 'addFault', kind: 'object', shapes });
  const [fault] = (await server.json<PictureState>(`/pictures/${id}`)).document.faults;
  await server.json(`/pictures/${id}/fills`, 'POST', { faultIds: [fault.id] });
  await server.json(`/pictures/${id}/export/ready`);
  await page.goto(`${server.address}/pictures/${id}/check`);
  await page.getByRole('button', { name: 'Whole picture' }).click();
  const divider = page.getByRole('slider', { name: /Divider/ });
  await divider.press('ArrowRight');
  await expect(divider).toHaveAttribute('aria-valuenow', '52');

  await page.getByRole('radio', { name: 'Side by side' }).click();
  const [before, after] = [/as it came in/, /with its repairs/].map((name) =>
    page.getByRole('img', { name }).and(page.locator('.osd')),
  );
  // The middle of the picture, where the disc is, on both sides: dark before, as light as around after.
  const middle = async (part: typeof before) => {
    const { data, info } = await sharp(await part.screenshot())
      .removeAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true });
    return data[3 * (Math.floor(info.height / 2) * info.width + Math.floor(info.width / 2))];
  };
  await expect.poll(() => middle(before)).toBeLessThan(60);
  await expect.poll(() => middle(after)).toBeGreaterThan(110);
  // Moved together: the disc leaves the middle on both sides.
  const box = (await before.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 + 120, box.y + box.height / 2, { steps: 6 });
  await page.mouse.up();
  await expect.poll(() => middle(before)).toBeGreaterThan(110);

  await page.getByRole('radio', { name: 'Changes only' }).click();
  await expect(page.getByRole('img', { name: 'The picture, changes' })).toBeVisible();
  await page.getByRole('radio', { name: 'Fly over' }).click();
  await expect(page.getByText(/row 1 of 1/)).toBeVisible();
  await page.keyboard.press('m');
  await expect(page.getByText('Marked at 320, 240.')).toBeVisible();
  const marked = async () => (await server.json<PictureState>(`/pictures/${id}`)).document.faults.length;
  await expect.poll(marked).toBe(2);
  await page.getByRole('button', { name: 'Take it back' }).click();
  await expect.poll(marked).toBe(1);
});
