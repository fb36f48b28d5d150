import { expect, test } from '@playwright/test';
import sharp from 'sharp';
import { framesOf } from '../bench/frames-of.ts';
import { photograph, randomiser, readPicture } from '../bench/planted.ts';
import type { Delivery } from '../src/contract/hand-over.ts';
import type { Verification } from '../src/contract/record.ts';
import type { Job } from '../src/contract/studio.ts';
import type { PictureState } from '../src/contract/api.ts';
import { complaints, photoBytes } from './bench.ts';
import { TestServer } from './server.ts';

const server = new TestServer();
test.beforeAll(() => server.start());
test.afterAll(() => server.kill());

/** Verifies the file that left of a picture last. */
async function verifiedDelivery(pictureId: string, file: Uint8Array): Promise<Verification> {
  const [{ id }] = await server.json<Delivery[]>(`/pictures/${pictureId}/deliveries`);
  return server.json<Verification>(`/deliveries/${id}/verify`, 'POST', file);
}

test('frames in any order are joined by keyboard, one that does not belong stays out, ragged edges are gaps and are cut off', async ({
  page,
}) => {
  test.setTimeout(180_000);
  const said = complaints(page);
  const { frames } = framesOf(await photograph('dust-bowl-home', 1800), randomiser(7), 3, 720);
  const { id } = await server.json<{ id: string }>('/jobs', 'POST', { name: 'The bay, wide' });
  for (const n of [1, 0, 2]) {
    const { width, height, data } = frames[n].raster;
    const png = await sharp(Buffer.from(data), { raw: { width, height, channels: 3 } })
      .png()
      .toBuffer();
    await server.json(`/jobs/${id}/pictures?name=frame-${n + 1}.png`, 'POST', png);
  }
  await server.json(`/jobs/${id}/pictures?name=other.jpg`, 'POST', photoBytes());

  await page.goto(`${server.address}/jobs/${id}/intake`);
  await page.getByRole('button', { name: 'Join frames…' }).focus();
  await page.keyboard.press('Enter');
  const which = page.getByRole('region', { name: 'Join frames' });
  // One alone cannot be joined.
  for (const name of ['frame-1.png', 'frame-2.png', 'frame-3.png']) {
    await which.getByRole('checkbox', { name }).focus();
    await page.keyboard.press('Space');
  }
  await expect(which.getByRole('button', { name: 'Join 1 frame', exact: true })).toBeDisabled();
  // Two that show nothing of the same are refused in words.
  await which.getByRole('checkbox', { name: 'frame-1.png' }).focus();
  await page.keyboard.press('Space');
  await which.getByRole('button', { name: 'Join 2 frames' }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('alert')).toContainText('The frames show nothing of the same', { timeout: 60_000 });

  await page.getByRole('button', { name: 'Join frames…' }).press('Enter');
  for (const name of ['frame-2.png', 'frame-3.png']) await which.getByRole('checkbox', { name }).press('Space');
  await which.getByRole('button', { name: 'Join 4 frames' }).press('Enter');
  const words = page.getByText(/^Joined from/);
  await expect(words).toContainText('other.jpg does not belong with them and stayed out.', { timeout: 90_000 });
  await expect(words).toContainText('Joined from frame-2.png, frame-1.png and frame-3.png, laid flat');

  const [job] = await server.json<Job[]>('/jobs');
  const picture = job.pictures.find((p) => p.joined)!;
  const { account, frames: from } = picture.joined!;
  expect(account.error).toBeLessThan(0.7);
  expect(account.width).toBeGreaterThan(1.6 * 720);
  expect(picture.openFaults).toBeGreaterThan(0);
  // What it was joined from is kept even when its pictures go.
  for (const p of job.pictures) if (!p.joined) await server.json(`/pictures/${p.id}`, 'DELETE');
  expect(from).toHaveLength(4);

  await page.goto(`${server.address}/pictures/${picture.id}/frame`);
  await page.getByRole('button', { name: /^Cut to [^,]*$/ }).press('Enter');
  await expect(page.getByRole('button', { name: 'Back to as it came' })).toBeVisible();
  await expect(page.getByRole('button', { name: /^Cut to \d/ })).toBeHidden();
  const state = await server.json<PictureState>(`/pictures/${picture.id}`);
  // The gaps are the picture's own and stay, for who wants it whole after all.
  expect(state.document.faults.filter((f) => f.kind === 'gap')).toHaveLength(picture.openFaults);
  const reply = await fetch(`${server.address}/api/pictures/${picture.id}/export?format=png`);
  const cutBytes = Buffer.from(await reply.arrayBuffer());
  const cut = await readPicture(cutBytes);
  expect([cut.width, cut.height]).toEqual([account.whole.width, account.whole.height]);
  let black = 0;
  for (let i = 0; i < cut.data.length; i += cut.channels)
    if (!cut.data[i] && !cut.data[i + 1] && !cut.data[i + 2]) black++;
  expect(black).toBeLessThan(20);

  // What left is verified from its frames on: joined again, they give what was worked on.
  const verified = await verifiedDelivery(picture.id, cutBytes);
  expect(verified.steps.map((s) => [s.what, s.agrees])).toEqual([
    ['Record', true],
    ['Original', true],
    ['Frames', true],
    ['Repairs', true],
    ['Delivered file', true],
  ]);
  expect(said).toEqual([]);
});
