import { expect, test, type CDPSession, type Page } from '@playwright/test';
import sharp from 'sharp';
import type { PictureState } from '../src/contract/api.ts';
import { closeUpReady, complaints, draw, onPage, PHOTO, photoBytes } from './bench.ts';
import { flaws } from './flaws.ts';
import { TestServer } from './server.ts';

const server = new TestServer();
test.beforeAll(() => server.start());
test.afterAll(() => server.kill());

interface View {
  angle(): number;
}
const angleOf = (page: Page) => page.evaluate(() => (window as never as { tersumView: View }).tersumView.angle());
const look = (id: string) => server.json<PictureState>(`/pictures/${id}`);

async function opened(page: Page): Promise<string> {
  const job = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Sheet' });
  const { id } = await server.json<{ id: string }>(`/jobs/${job.id}/pictures?name=s.jpg`, 'POST', photoBytes());
  await page.goto(`${server.address}/pictures/${id}/bench`);
  await closeUpReady(page);
  return id;
}

/** Mean difference of what is on the screen at places of the photograph from what belongs there, in levels. */
async function offBy(page: Page, places: Array<[number, number]>): Promise<number> {
  const shot = sharp(await page.screenshot()).removeAlpha();
  const { data, info } = await shot.raw().toBuffer({ resolveWithObject: true });
  const photo = await sharp(PHOTO)
    .removeAlpha()
    .toColourspace('srgb')
    .blur(1.5)
    .raw()
    .toBuffer({ resolveWithObject: true });
  let sum = 0;
  for (const [x, y] of places) {
    const at = await onPage(page, x, y);
    const i = (Math.round(at.y) * info.width + Math.round(at.x)) * 3;
    const j = (y * photo.info.width + x) * photo.info.channels;
    sum += Math.abs(data[i] - photo.data[j]);
  }
  return sum / places.length;
}

test('the sheet turns: tiles, marks, strokes and the frame at arm’s length turn with it, and one key puts it straight', async ({
  page,
}) => {
  const said = complaints(page);
  await page.setViewportSize({ width: 1280, height: 800 });
  const id = await opened(page);
  const places: Array<[number, number]> = [
    [400, 300],
    [520, 330],
    [610, 380],
    [450, 420],
    [560, 260],
    [640, 300],
  ];
  const straight = await offBy(page, places);
  for (let n = 0; n < 2; n++) await page.keyboard.press('Shift+K');
  await page.keyboard.press('J');
  await expect.poll(() => angleOf(page)).toBeCloseTo(27, 5);
  await closeUpReady(page);
  await page.waitForTimeout(600);
  // What is seen at a place is what belongs there, as when it was straight.
  expect(await offBy(page, places)).toBeLessThan(straight + 6);
  const frame = page.locator('[aria-label="The whole picture at arm’s length"] .view');
  await expect(frame).toHaveAttribute('style', /rotate\(-27deg\)/);

  await page.keyboard.press('2');
  await draw(page, [
    [420, 300],
    [500, 340],
  ]);
  await expect.poll(async () => (await look(id)).document.faults.length).toBe(1);
  const [{ shapes }] = (await look(id)).document.faults;
  const points = (shapes[0] as { points: Array<[number, number]> }).points;
  expect(Math.hypot(points[0][0] - 420, points[0][1] - 300)).toBeLessThan(1.5);
  expect(Math.hypot(points.at(-1)![0] - 500, points.at(-1)![1] - 340)).toBeLessThan(1.5);

  // A stroke by hand lands where it is painted, too.
  await page.keyboard.press('9');
  await draw(page, [
    [600, 250],
    [660, 300],
  ]);
  await expect.poll(async () => (await look(id)).document.repairs.length).toBe(1);
  const { spec } = (await look(id)).document.repairs[0].tries[0];
  const [x, y] = (spec as { strokes: Array<{ points: number[][] }> }).strokes[0].points[0];
  expect(Math.hypot(x - 600, y - 250)).toBeLessThan(1.5);

  await page.keyboard.press('L');
  await expect.poll(() => angleOf(page)).toBe(0);
  const dial = page.getByRole('slider', { name: 'Turn of the sheet' });
  await dial.focus();
  for (let n = 0; n < 5; n++) await page.keyboard.press('ArrowLeft');
  await expect(dial).toHaveAttribute('aria-valuetext', '-5°');
  await dial.dblclick();
  await expect.poll(() => angleOf(page)).toBe(0);
  expect(said).toEqual([]);
});

test.describe('on a tablet', () => {
  test.use({ hasTouch: true, viewport: { width: 1024, height: 768 } });

  const touch = (cdp: CDPSession, type: string, points: Array<[number, number]>) =>
    cdp.send('Input.dispatchTouchEvent', {
      type: type as 'touchStart',
      touchPoints: points.map(([x, y], id) => ({ x, y, id })),
    });

  test('two fingers move, zoom and turn while one draws; a finger moves once a pen draws; the other hand holds buttons', async ({
    page,
  }) => {
    const id = await opened(page);
    const cdp = await page.context().newCDPSession(page);
    await page.keyboard.press('2');
    const middle = await onPage(page, 500, 330);
    const around = (angle: number, r: number): Array<[number, number]> => [
      [middle.x + r * Math.cos(angle), middle.y + r * Math.sin(angle)],
      [middle.x - r * Math.cos(angle), middle.y - r * Math.sin(angle)],
    ];
    const scale = () =>
      page.evaluate(() => (window as never as { tersumView: { scale(): number } }).tersumView.scale());
    const before = await scale();
    await touch(cdp, 'touchStart', around(0, 80));
    for (let n = 1; n <= 10; n++) await touch(cdp, 'touchMove', around((n * Math.PI) / 60, 80 + 8 * n));
    await touch(cdp, 'touchEnd', []);
    await expect.poll(() => angleOf(page)).toBeGreaterThan(25);
    expect(await angleOf(page)).toBeLessThan(35);
    expect((await scale()) / before).toBeGreaterThan(1.7);
    expect((await look(id)).document.faults).toHaveLength(0);

    // One finger marks.
    await page.keyboard.press('l');
    await closeUpReady(page);
    const a = await onPage(page, 480, 300);
    await touch(cdp, 'touchStart', [[a.x, a.y]]);
    for (let n = 1; n <= 6; n++) await touch(cdp, 'touchMove', [[a.x + 8 * n, a.y]]);
    await touch(cdp, 'touchEnd', []);
    await expect.poll(async () => (await look(id)).document.faults.length).toBe(1);

    // Once a pen has drawn, a finger moves the picture instead.
    const pen = (type: string, x: number, y: number) =>
      cdp.send('Input.dispatchMouseEvent', {
        type: type as 'mousePressed',
        x,
        y,
        button: 'left',
        buttons: type === 'mouseReleased' ? 0 : 1,
        clickCount: 1,
        pointerType: 'pen',
        force: 0.5,
      });
    const b = await onPage(page, 520, 360);
    await pen('mousePressed', b.x, b.y);
    for (let n = 1; n <= 6; n++) await pen('mouseMoved', b.x + 6 * n, b.y);
    await pen('mouseReleased', b.x + 36, b.y);
    await expect.poll(async () => (await look(id)).document.faults.length).toBe(2);
    await touch(cdp, 'touchStart', [[b.x, b.y]]);
    for (let n = 1; n <= 6; n++) await touch(cdp, 'touchMove', [[b.x + 10 * n, b.y]]);
    await touch(cdp, 'touchEnd', []);
    await closeUpReady(page);
    const moved = await onPage(page, 520, 360);
    expect(moved.x - b.x).toBeGreaterThan(40);
    expect((await look(id)).document.faults).toHaveLength(2);

    await page.keyboard.press('4');
    const held = page.getByRole('group', { name: 'Held with the other hand' });
    const donor = held.getByRole('button', { name: 'Donor' });
    const box = (await donor.boundingBox())!;
    await touch(cdp, 'touchStart', [[box.x + 20, box.y + 8]]);
    await expect(donor).toHaveAttribute('aria-pressed', 'true');
    await touch(cdp, 'touchEnd', []);
    await expect(donor).toHaveAttribute('aria-pressed', 'false');
    expect(await flaws(page)).toEqual([]);
    await held.getByRole('button', { name: 'Undo' }).tap();
    await expect.poll(async () => (await look(id)).document.faults.length).toBe(1);
  });
});
