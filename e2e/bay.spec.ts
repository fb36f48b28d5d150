import { expect, test } from '@playwright/test';
import sharp from 'sharp';
import { photograph, readPicture } from '../bench/planted.ts';
import type { PictureState } from '../src/contract/api.ts';
import type { Verification } from '../src/contract/record.ts';
import type { Job } from '../src/contract/studio.ts';
import { complaints } from './bench.ts';
import { TestServer } from './server.ts';

const server = new TestServer();
test.beforeAll(() => server.start());
test.afterAll(() => server.kill());

const stateOf = (id: string) => server.json<PictureState>(`/pictures/${id}`);

/** The joined picture of a job, once there is one. */
async function joinedOf(jobId: string) {
  let found: Job['pictures'][number] | undefined;
  await expect
    .poll(
      async () => {
        const job = (await server.json<Job[]>('/jobs')).find((j) => j.id === jobId)!;
        found = job.pictures.findLast((p) => p.joined);
        return Boolean(found);
      },
      { timeout: 150_000 },
    )
    .toBe(true);
  return found!;
}

test('the bay is joined from its frames, its ragged edge partly cut and filled, and levelled, by keys alone', async ({
  page,
}) => {
  test.setTimeout(360_000);
  const said = complaints(page);
  const { id: jobId } = await server.json<{ id: string }>('/jobs', 'POST', { name: 'The bay' });
  for (const n of [2, 1, 3]) {
    const png = await sharp(`demo/pictures/bay-${n}.jpg`).resize({ width: 420 }).png().toBuffer();
    await server.json(`/jobs/${jobId}/pictures?name=bay-${n}.png`, 'POST', png);
  }
  await page.goto(`${server.address}/jobs/${jobId}/intake`);
  await page.getByRole('button', { name: 'Join frames…' }).press('Enter');
  await page.getByRole('region', { name: 'Join frames' }).getByRole('button', { name: 'Join 3 frames' }).press('Enter');
  const { id, joined } = await joinedOf(jobId);
  const { whole, between, width, height } = joined!.account;
  // In between of cutting off all gaps and filling all of them.
  expect(between!.width * between!.height).toBeGreaterThan(whole.width * whole.height);
  expect(between!.gaps / (between!.width * between!.height)).toBeLessThan(0.06);

  await page.goto(`${server.address}/pictures/${id}/frame`);
  await page.getByRole('button', { name: /^Cut to .*, fill/ }).press('Enter');
  await expect
    .poll(async () => (await stateOf(id)).statuses.map((s) => s.state).join(), { timeout: 200_000 })
    .toMatch(/^shown(,shown)*$/);
  const { document } = await stateOf(id);
  expect(document.steps.map((s) => s.spec)).toEqual([
    { step: 'canvas', box: { x: between!.x, y: between!.y, width: between!.width, height: between!.height } },
  ]);
  const filled = document.faults.filter((f) => f.kind === 'gap' && f.state === 'treated');
  expect(filled.length).toBeGreaterThan(0);

  // A line along the horizon, a px higher at its right end: the frame is level by that.
  await page.getByRole('button', { name: 'Draw a line' }).press('Space');
  const sheet = page.getByRole('application');
  await sheet.focus();
  for (let n = 0; n < 6; n++) await page.keyboard.press('Shift+ArrowLeft');
  await page.keyboard.press(' ');
  for (let n = 0; n < 12; n++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press(' ');
  const crop = page.getByRole('article', { name: 'Crop' });
  const look = crop.getByRole('button', { name: 'Look at it' });
  await expect(crop.getByRole('button')).toBeVisible();
  if (await look.isVisible()) await look.press('Enter');
  await crop.getByRole('button', { name: 'Cut to this' }).press('Enter');
  await expect.poll(async () => (await stateOf(id)).document.steps.map((s) => s.spec.step)).toContain('turn');
  const turn = (await stateOf(id)).document.steps.map((s) => s.spec).find((s) => s.step === 'turn')!;
  expect(turn.degrees).toBeLessThan(0);
  expect(turn.degrees).toBeGreaterThan(-3);
  const file = await readPicture(await server.bytes(`/pictures/${id}/export?format=png&missing=leave`));
  expect(file.width).toBeLessThanOrEqual(width);
  expect(file.height).toBeLessThanOrEqual(height);
  expect(said).toEqual([]);
});

test('of two frames of one backdrop each gives what is clean of it, as marked; the record joins them so again', async ({
  page,
}) => {
  test.setTimeout(240_000);
  const said = complaints(page);
  const clean = await photograph('dust-bowl-home', 640);
  const { width, height } = clean;
  /** With a dark disc of dirt at a place. */
  const dirty = (cx: number, cy: number) => {
    const data = Buffer.from(clean.data);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++)
        if (Math.hypot(x - cx, y - cy) < 22) data.fill(8, 3 * (y * width + x), 3 * (y * width + x) + 3);
    return sharp(data, { raw: { width, height, channels: 3 } })
      .png()
      .toBuffer();
  };
  const spots = [
    [130, 90],
    [500, 120],
  ] as const;
  const { id: jobId } = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Backdrop' });
  for (const [n, [x, y]] of spots.entries())
    await server.json(`/jobs/${jobId}/pictures?name=take-${n + 1}.png`, 'POST', await dirty(x, y));
  await page.goto(`${server.address}/jobs/${jobId}/intake`);
  await page.getByRole('button', { name: 'Join frames…' }).click();
  for (const [n, [x, y]] of spots.entries()) {
    await page.getByRole('button', { name: `Parts of take-${n + 1}.png` }).click();
    await page.getByRole('radio', { name: 'Leave out' }).click();
    const sheet = page.getByRole('application');
    await sheet.scrollIntoViewIfNeeded();
    const place = (px: number, py: number) =>
      sheet.evaluate(
        (svg, [u, v]) => {
          const at = new DOMPoint(u, v).matrixTransform((svg as unknown as SVGSVGElement).getScreenCTM()!);
          return { x: at.x, y: at.y };
        },
        [px, py] as const,
      );
    const [from, to] = [await place(x - 34, y - 34), await place(x + 34, y + 34)];
    await page.mouse.move(from.x, from.y);
    await page.mouse.down();
    await page.mouse.move(to.x, to.y, { steps: 3 });
    await page.mouse.up();
    await expect(page.getByRole('button', { name: `Parts of take-${n + 1}.png (1)` })).toBeVisible();
  }
  await page.getByRole('button', { name: 'Join 2 frames' }).click();
  const { id, joined } = await joinedOf(jobId);
  expect(joined!.marks!.map((m) => m!.leave.length)).toEqual([1, 1]);
  const file = await server.bytes(`/pictures/${id}/export?format=png&missing=leave`);
  const made = await readPicture(file);
  // Where dirt was in either there is what the other shows: nothing as dark is left there.
  let dark = 0;
  for (const [cx, cy] of spots)
    for (let y = cy - 20; y <= cy + 20; y++)
      for (let x = cx - 20; x <= cx + 20; x++) {
        const i = 3 * (y * made.width + x);
        if (made.data[i] < 20 && clean.data[3 * (y * width + x)] > 60) dark++;
      }
  expect(dark).toBe(0);
  const [{ id: delivery }] = await server.json<Array<{ id: string }>>(`/pictures/${id}/deliveries`);
  const verified = await server.json<Verification>(`/deliveries/${delivery}/verify`, 'POST', file);
  expect(verified.steps.map((s) => [s.what, s.agrees])).toContainEqual(['Frames', true]);
  expect(verified.agrees).toBe(true);
  expect(said).toEqual([]);
});
