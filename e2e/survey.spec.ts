import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import sharp from 'sharp';
import type { PictureState } from '../src/contract/api.ts';
import { rasterise, type Shape } from '../src/core/mask/shapes.ts';
import { closeUpReady, complaints, draw, onPage } from './bench.ts';
import { TestServer } from './server.ts';

const server = new TestServer();
test.beforeAll(() => server.start());
test.afterAll(() => server.kill());

/** A piece of a demo picture as a picture of its own job, with something drawn over it. */
async function piece(
  name: string,
  left: number,
  top: number,
  width: number,
  height: number,
  { drawn = '', longSideMm = 200 } = {},
): Promise<string> {
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}">${drawn}</svg>`;
  const cut = await sharp(`demo/pictures/${name}.jpg`).extract({ left, top, width, height }).png().toBuffer();
  const file = await sharp(cut)
    .composite([{ input: Buffer.from(svg) }])
    .removeAlpha()
    .png()
    .toBuffer();
  const job = await server.json<{ id: string }>('/jobs', 'POST', { name, longSideMm });
  return (await server.json<{ id: string }>(`/jobs/${job.id}/pictures?name=${name}.png`, 'POST', file)).id;
}
const look = (id: string) => server.json<PictureState>(`/pictures/${id}`);

test('the old print is surveyed, a few finds are rejected, all other specks treated at once, and the plan follows', async ({
  page,
}) => {
  const said = complaints(page);
  const id = await piece('cottage', 1650, 60, 1000, 640);
  await page.goto(`${server.address}/pictures/${id}/survey`);
  await page.getByText('Let the picture be looked over').waitFor();
  // The subject is drawn around on the map, the backdrop boxed by keys.
  await page.getByRole('button', { name: 'Subject' }).click();
  const map = page.getByRole('application', { name: /Draw around the area/ });
  const frame = (await map.boundingBox())!;
  for (const [n, [x, y]] of [
    [0.4, 0.3],
    [0.6, 0.3],
    [0.6, 0.7],
    [0.4, 0.7],
  ].entries()) {
    await page.mouse.move(frame.x + x * frame.width, frame.y + y * frame.height, { steps: n ? 5 : 1 });
    if (n === 0) await page.mouse.down();
  }
  await page.mouse.up();
  await expect(map).toHaveCount(0);
  await page.getByRole('button', { name: 'Backdrop' }).click();
  await map.focus();
  for (const key of ['Space', 'Shift+ArrowRight', 'Shift+ArrowDown', 'Space']) await page.keyboard.press(key);
  await expect(map).toHaveCount(0);
  await page.getByRole('button', { name: 'Survey', exact: true }).last().click();
  const specks = page.getByRole('button', { name: /^Specks/ });
  await specks.waitFor({ timeout: 90_000 });
  await specks.click();
  const { request } = await server.json<{ request: { subject: Shape[]; backdrop: Shape[] } }>(`/pictures/${id}/survey`);
  expect(request.subject.map((s) => s.kind)).toEqual(['outline']);
  expect(request.backdrop).toEqual([expect.objectContaining({ kind: 'box', width: 80, height: 80 })]);
  const cells = page.getByRole('button', { name: /^Find \d+, speck/ });
  const all = await cells.count();
  expect(all).toBeGreaterThan(10);
  const { violations } = await new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa', 'wcag22aa']).analyze();
  expect(violations.filter((v) => v.impact === 'serious' || v.impact === 'critical').map((v) => v.id)).toEqual([]);

  // One is rejected by a click, one by keys; the second is taken back.
  await page.getByRole('button', { name: /^Find 1, speck/ }).click();
  await expect(page.getByRole('button', { name: /^Find 1, speck.*rejected/ })).toBeVisible();
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('x');
  await expect(page.getByRole('button', { name: /^Find 2, speck.*rejected/ })).toBeVisible();
  await page.keyboard.press('x');
  await expect(page.getByRole('button', { name: /^Find 2, speck.*found/ })).toBeVisible();
  await expect(page.getByRole('button', { name: `Treat all ${all - 1} specks` })).toBeVisible();

  // Sensitivity slides over what was found, without looking again.
  const sensitivity = page.getByRole('slider', { name: 'Sensitivity' });
  await sensitivity.focus();
  for (let n = 0; n < 30; n++) await sensitivity.press('ArrowLeft');
  await expect.poll(() => cells.count()).toBeLessThan(all);
  for (let n = 0; n < 30; n++) await sensitivity.press('ArrowRight');
  await expect.poll(() => cells.count()).toBe(all);

  await page.getByRole('button', { name: /^Treat all/ }).click();
  await expect(page.getByRole('button', { name: /in the worklist/ })).toHaveCount(all - 1);
  await expect
    .poll(async () => (await look(id)).statuses.filter((s) => s.state === 'shown').length, { timeout: 90_000 })
    .toBe(all - 1);
  const { document } = await look(id);
  expect(document.repairs.every((r) => r.faultIds.length === 1)).toBe(true);
  expect(document.layers.map((l) => l.name)).toEqual(['Specks']);

  // Another group goes into the worklist only: the bench shows what is left and how long it will take.
  await page
    .getByRole('button', { name: /^(Hairs|Scratches|Stains|Stand-outs) ?[1-9]/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Only into the worklist' }).click();
  await page.getByRole('link', { name: 'Bench' }).click();
  await closeUpReady(page);
  await expect(page.getByText(/\d+ (s|min) left/)).toBeVisible();
  // What is treated is folded away beneath what is open.
  await expect(page.getByRole('button', { name: `${all - 1} done with` })).toHaveAttribute('aria-expanded', 'false');
  await page.keyboard.press('n');
  await expect(page.getByRole('button', { name: /^Fault \d+, /, pressed: true })).toHaveAccessibleName(/open/);
  await page
    .getByRole('button', { name: /^Fault \d+, .*, open/ })
    .first()
    .click();
  await page.keyboard.press('x');
  await expect.poll(async () => (await look(id)).document.faults.filter((f) => f.state === 'left').length).toBe(1);
  expect(said).toEqual([]);
});

/** The third of the headland's four wires, as the generator lays it, in the piece that is cut out of it. */
const curve = (t: number) => {
  const at = (a: number, b: number, c: number) => (1 - t) ** 2 * a + 2 * t * (1 - t) * b + t * t * c;
  return [at(640, 2030, 3420) - 1000, at(581, 772, 284) - 560] as const;
};
const traceWire = async (page: Page) => {
  await page.keyboard.press('6');
  for (const t of [0.17, 0.45]) {
    const at = await onPage(page, ...curve(t));
    await page.mouse.click(at.x, at.y);
  }
};

test('on a print so small that nobody can see a wire, the worklist says so', async ({ page }) => {
  const id = await piece('headland', 1000, 560, 1000, 320, { longSideMm: 15 });
  await page.goto(`${server.address}/pictures/${id}/bench`);
  await closeUpReady(page);
  await traceWire(page);
  const worklist = page.getByLabel('Worklist', { exact: true });
  await expect(worklist.getByText('0 of 1 open can be seen at delivery')).toBeVisible();
  await expect(worklist.getByText(/not seen$/)).toBeVisible();
  // Something large beside it can be.
  await page.keyboard.press('2');
  await draw(page, [
    [250, 230],
    [420, 250],
  ]);
  await expect(worklist.getByText('1 of 2 open can be seen at delivery')).toBeVisible();
});

test('a wire is traced in two clicks, a fence completed from four strands, a clip on it marked too', async ({
  page,
}) => {
  const wire = await piece('headland', 1000, 560, 1000, 320);
  await page.goto(`${server.address}/pictures/${wire}/bench`);
  await closeUpReady(page);
  await traceWire(page);
  await expect(page.getByRole('button', { name: 'Fault 1, strand, open' })).toBeVisible();
  const [strand] = (await look(wire)).document.faults;
  const middle = strand.line!.points[strand.line!.points.length >> 1];
  const best = Math.min(
    ...Array.from({ length: 400 }, (_, n) => Math.hypot(curve(n / 400)[0] - middle[0], curve(n / 400)[1] - middle[1])),
  );
  expect(best).toBeLessThan(4);
  expect(strand.line!.width).toBeGreaterThan(2);
  expect(strand.line!.width).toBeLessThan(8);

  // 100 % goes to the wire, though the middle of its box holds none of it; seen elsewhere, the place looked at stays.
  const nearest = async () => {
    const box = (await page.getByTestId('close-up').boundingBox())!;
    const points = await Promise.all(Array.from({ length: 60 }, (_, n) => onPage(page, ...curve(0.1 + n / 150))));
    return Math.min(...points.map((p) => Math.hypot(p.x - box.x - box.width / 2, p.y - box.y - box.height / 2)));
  };
  await page.keyboard.press('1');
  await page.keyboard.press('End');
  await closeUpReady(page);
  await expect(page.getByRole('combobox', { name: 'Zoom' })).toContainText('100 %');
  expect(await nearest()).toBeLessThan(12);
  // Its thumbnail is a close piece and not the whole span.
  const thumb = page.getByRole('button', { name: 'Fault 1, strand, open' }).locator('img');
  expect(Number(/[?&]width=(\d+)/.exec((await thumb.getAttribute('src'))!)![1])).toBeLessThan(260);

  // A clip sits on one of the strands.
  const clip = '<ellipse cx="287" cy="320" rx="17" ry="14" fill="#bfc3c4"/>';
  const fence = await piece('garden', 1100, 500, 1200, 900, { drawn: clip });
  await page.goto(`${server.address}/pictures/${fence}/bench`);
  await closeUpReady(page);
  await page.keyboard.press('6');
  const strands = [
    [1280, 700, 1638, 1100],
    [1434, 700, 1790, 1100],
    [2070, 700, 1734, 1100],
    [2210, 700, 1879, 1100],
  ];
  for (const [n, [x0, y0, x1, y1]] of strands.entries()) {
    for (const [x, y] of [
      [x0, y0],
      [x1, y1],
    ]) {
      const at = await onPage(page, x - 1100, y - 500);
      await page.mouse.click(at.x, at.y);
    }
    await expect(page.getByRole('button', { name: /strand, open/ })).toHaveCount(n + 1);
  }
  await page.getByRole('button', { name: 'Complete the mesh' }).click();
  await expect(page.getByRole('button', { name: /mesh, open/ })).toBeVisible({ timeout: 60_000 });
  const { faults } = (await look(fence)).document;
  expect(faults.map((f) => f.kind)).toEqual(['mesh', 'object']);
  expect(faults[0].shapes.length).toBeGreaterThan(14);
  await expect(page.getByRole('button', { name: /object, open/ })).toBeVisible();
  const at = rasterise(faults[1].shapes, { x: 287, y: 320, width: 1, height: 1 });
  expect(at.data[0]).toBeGreaterThan(0);
  await expect(page.getByRole('button', { name: 'Undo: Mark faults 5 to 6' })).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('button', { name: /strand, open/ })).toHaveCount(4);
});
