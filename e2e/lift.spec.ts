import { expect, test, type Page } from '@playwright/test';
import sharp from 'sharp';
import type { PictureState } from '../src/contract/api.ts';
import type { Point } from '../src/core/mask/shapes.ts';
import { closeUpReady } from './bench.ts';
import { TestServer } from './server.ts';

const server = new TestServer();
test.beforeAll(() => server.start());
test.afterAll(() => server.kill());

const [WIDTH, HEIGHT] = [640, 480];
const STAIN = { x: 320, y: 240, radius: 90 };

/** Two grounds with waves; with a brown stain over both, or as it was. */
async function print(stained: boolean): Promise<Buffer> {
  const data = Buffer.alloc(WIDTH * HEIGHT * 3);
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++) {
      const s = stained ? Math.min(0.35, Math.max(0, (STAIN.radius - Math.hypot(x - STAIN.x, y - STAIN.y)) / 4)) : 0;
      const ground = (x + y > 560 ? 185 : 85) + 10 * Math.sin(x / 9) + ((i * 2654435761) % 9);
      for (let c = 0; c < 3; c++) data[3 * i + c] = (1 - s) * (ground - 8 * c) + s * [122, 90, 44][c];
    }
  return sharp(data, { raw: { width: WIDTH, height: HEIGHT, channels: 3 } })
    .png()
    .toBuffer();
}

/** A job with the stained print, its stain marked by a rough outline; opened on the bench, the stain chosen. */
async function opened(page: Page, policy: 'creative' | 'restoration'): Promise<string> {
  const job = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Stain', policy });
  const { id } = await server.json<{ id: string }>(`/jobs/${job.id}/pictures?name=s.png`, 'POST', await print(true));
  const points = Array.from({ length: 40 }, (_, n): Point => {
    const a = (n / 40) * 2 * Math.PI;
    const far = STAIN.radius + 8 * Math.sin(3 * a);
    return [STAIN.x + far * Math.cos(a), STAIN.y + far * Math.sin(a)];
  });
  const shapes = [{ op: 'add', kind: 'outline', points }];
  await server.json(`/pictures/${id}/edits`, 'POST', { type: 'addFault', kind: 'stain', shapes });
  await page.goto(`${server.address}/pictures/${id}/bench`);
  await closeUpReady(page);
  await page.keyboard.press('n');
  await expect(page.getByRole('heading', { name: 'Proposed: lift' })).toBeVisible();
  return id;
}

test('a restoration asks before it fills over a stain beneath which all can be read; a second press means it', async ({
  page,
}) => {
  const id = await opened(page, 'restoration');
  const repairs = async () => (await server.json<PictureState>(`/pictures/${id}`)).document.repairs;
  await page.keyboard.press('3');
  await expect(page.getByText(/can still be read.*Lift keeps it.*press Fill once more/)).toBeVisible();
  expect(await repairs()).toEqual([]);
  await page.keyboard.press('3');
  await expect.poll(async () => (await repairs()).map((r) => r.tries[0].spec.method)).toEqual(['fill']);
});

test('a stain is proposed to be lifted, is taken off with what is beneath kept, and its amount can be changed', async ({
  page,
}) => {
  const id = await opened(page, 'creative');
  await page.getByRole('region', { name: 'Next step' }).getByRole('button', { name: 'Lift' }).click();
  await expect(page.getByText(/^Lifted: a layer of \d+ % lies over it/)).toBeVisible({ timeout: 30_000 });
  const off = async () => {
    const done = await sharp(await server.bytes(`/pictures/${id}/export?format=png`))
      .removeAlpha()
      .raw()
      .toBuffer();
    const truth = await sharp(await print(false))
      .raw()
      .toBuffer();
    let [n, sum] = [0, 0];
    truth.forEach((v, k) => {
      const i = Math.floor(k / 3);
      if (Math.hypot((i % WIDTH) - STAIN.x, Math.floor(i / WIDTH) - STAIN.y) > STAIN.radius) return;
      n++;
      sum += Math.abs(done[k] - v);
    });
    return sum / n;
  };
  // 22 levels before.
  expect(await off()).toBeLessThan(4.5);
  await page.getByRole('slider', { name: 'Amount' }).focus();
  await page.keyboard.press('Home');
  const amount = async () => {
    const { document } = await server.json<PictureState>(`/pictures/${id}`);
    const { spec } = document.repairs[0].tries[0];
    return spec.method === 'lift' ? spec.amount : null;
  };
  await expect.poll(amount).toBe(0.2);
  await expect.poll(off, { timeout: 20_000 }).toBeGreaterThan(8);
});
