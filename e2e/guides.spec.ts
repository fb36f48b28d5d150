import { expect, test } from '@playwright/test';
import sharp from 'sharp';
import { closeUpReady, complaints, onPage, triesReady } from './bench.ts';
import { TestServer } from './server.ts';

const server = new TestServer();
test.beforeAll(() => server.start());
test.afterAll(() => server.kill());

const [W, H] = [1100, 800];

/** A light ground above a dark one with a border at 400 px, and something bright in front of it. */
async function scene(): Promise<Uint8Array> {
  const data = Buffer.alloc(W * H * 3);
  for (let y = 0, i = 0; y < H; y++)
    for (let x = 0; x < W; x++, i += 3) {
      const grain = ((x * 7349 + y * 9151) * 2654435761) >>> 28;
      const tone = (y < 400 ? 190 : 70) + grain + 6 * Math.sin(x / 9 + y / 5);
      const thing = x >= 450 && x < 650 && y >= 300 && y < 500;
      data.set(thing ? [230, 40, 40] : [tone, tone, tone - 10], i);
    }
  return sharp(data, { raw: { width: W, height: H, channels: 3 } })
    .png()
    .toBuffer();
}

test('an edge that is drawn across a cover runs on there, in another try than the one it would be without', async ({
  page,
}) => {
  const said = complaints(page);
  await page.goto(server.address);
  await page.getByRole('button', { name: 'New job' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Two grounds');
  await page.getByRole('button', { name: 'Make job' }).click();
  await page
    .locator('input[type=file]')
    .setInputFiles({ name: 'two.png', mimeType: 'image/png', buffer: Buffer.from(await scene()) });
  await page.getByRole('button', { name: 'To the bench' }).click();
  await closeUpReady(page);
  const id = page.url().split('/').at(-2)!;
  await server.json(`/pictures/${id}/edits`, 'POST', {
    type: 'addFault',
    kind: 'object',
    shapes: [{ op: 'add', kind: 'box', x: 445, y: 295, width: 210, height: 210 }],
  });
  await page.getByRole('button', { name: /^Fault 1, object, open/ }).click();
  await closeUpReady(page);
  await page.keyboard.press('2');

  // The border is met at 400 px on both sides; it is drawn through 450 in the middle.
  await page
    .getByRole('radio', { name: 'Edge runs on' })
    .or(page.getByRole('button', { name: 'Edge runs on' }))
    .click();
  for (const [x, y] of [
    [430, 400],
    [500, 430],
    [550, 450],
    [600, 430],
    [670, 400],
  ]) {
    const at = await onPage(page, x, y);
    await page.mouse.click(at.x, at.y);
  }
  await page.getByRole('button', { name: 'Finish' }).click();
  await expect(page.getByText('Edges run on as drawn.')).toBeVisible();
  if (process.env.TERSUM_LOOK) await page.screenshot({ path: `${process.env.TERSUM_LOOK}/guides-drawn.png` });
  await page.getByRole('region', { name: 'Next step' }).getByRole('button', { name: 'Fill', exact: true }).click();
  await triesReady(page, 3);
  await expect(page.getByText(/the drawn edges run on inside/).first()).toBeVisible();
  if (process.env.TERSUM_LOOK) await page.screenshot({ path: `${process.env.TERSUM_LOOK}/guides-filled.png` });

  const { data, info } = await sharp(await server.bytes(`/pictures/${id}/export?format=png`))
    .raw()
    .toBuffer({ resolveWithObject: true });
  const toneAt = (x: number, y: number) => data[(y * W + x) * info.channels];
  const share = (x: number, from: number, to: number, light: boolean) => {
    let n = 0;
    for (let y = from; y < to; y++) if (toneAt(x, y) > 130 === light) n++;
    return n / (to - from);
  };
  // Light above the drawn line, also where the dark ground would have been; dark below it.
  for (const x of [540, 550, 560]) {
    expect(share(x, 410, 440, true)).toBeGreaterThan(0.9);
    expect(share(x, 460, 495, false)).toBeGreaterThan(0.9);
  }
  expect(said).toEqual([]);
});
