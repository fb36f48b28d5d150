import { expect, test, type Locator, type Page } from '@playwright/test';
import { complaints, photoBytes, PHOTO } from './bench.ts';
import { TestServer } from './server.ts';
import type { PictureState } from '../src/contract/api.ts';
import { readPicture } from '../bench/planted.ts';

const server = new TestServer();
test.beforeAll(() => server.start());
test.afterAll(() => server.kill());
// Every way is tried beside what is made.
test.describe.configure({ timeout: 300_000 });

async function picture(name: string): Promise<string> {
  const job = await server.json<{ id: string }>('/jobs', 'POST', { name });
  return (await server.json<{ id: string }>(`/jobs/${job.id}/pictures?name=s.jpg`, 'POST', photoBytes())).id;
}
const stateOf = (id: string) => server.json<PictureState>(`/pictures/${id}`);
const exported = async (id: string) => {
  const reply = await fetch(`${server.address}/api/pictures/${id}/export?format=png`);
  expect(reply.status).toBe(200);
  return readPicture(Buffer.from(await reply.arrayBuffer()));
};

/** Looks at a way, where that is not looked at already. */
async function lookAt(card: Locator): Promise<void> {
  const look = card.getByRole('button', { name: 'Look at it' });
  await expect(card.getByRole('button')).toBeVisible();
  if (await look.isVisible()) await look.click();
}

/** Draws a box around what stands in the middle. */
async function drawSubject(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Draw around it' }).click();
  const box = (await page.getByRole('application').boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.42, box.y + box.height * 0.3);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.56, box.y + box.height * 0.6, { steps: 4 });
  await page.mouse.up();
}

test('a format is asked for by its size on paper or by pixels, and the room around the subject is said', async ({
  page,
}) => {
  const id = await picture('Sizes');
  await page.goto(`${server.address}/pictures/${id}/frame`);
  const sum = page.locator('.sum');
  const format = page.getByLabel('Proportion');
  await format.selectOption('by print size…');
  await page.getByLabel('Size of the print in mm').fill('broad');
  await expect(page.getByRole('alert')).toHaveText('Write two numbers, such as 210 × 297.');
  await page.getByLabel('Size of the print in mm').fill('130 × 100');
  // Extended it is 1065 px wide, cut 1024: either is less than 210 px an inch.
  await expect(sum).toContainText(/20[08] ppi at 130 mm, 3[13] % below 300 ppi, which it reaches at (87|90) mm/);
  await page.getByLabel('Resolution in px per inch').fill('150');
  await expect(sum).toContainText(/20[08] ppi at 130 mm: enough for 150 ppi/);
  await format.selectOption('by pixels…');
  await page.getByLabel('Pixels asked for').fill('1600 × 1280');
  await expect(sum).toContainText(/1.600 × 1.280 px: .*36 % narrower than asked for/i);

  await drawSubject(page);
  await expect(page.getByText(/^2\d % of the height is free above it, which is a lot\./)).toBeVisible();
  const room = page.getByText(/of the width is in front of it/);
  const shares = async () =>
    [...(await room.innerText()).matchAll(/(\d+) % (?:of the width is in front|behind)/g)].map((m) => Number(m[1]));
  await page.getByLabel('Where it looks or moves to').selectOption('right');
  const [before, behind] = await shares();
  expect(before + behind).toBeGreaterThan(70);
  await page.getByLabel('Where it looks or moves to').selectOption('left');
  expect(await shares()).toEqual([behind, before]);
  await expect(page.getByText(/It looks out of the picture/)).toHaveCount(behind < before ? 1 : 0);

  const lines = page.getByLabel('Lines over the picture');
  await expect(lines).toHaveValue('thirds');
  const drawn = page.locator('svg[aria-label^="The picture in its frame"] > path[stroke]').last();
  const sides = async () => ((await drawn.getAttribute('d')) ?? '').split('M').length - 1;
  expect(await sides()).toBe(4);
  await lines.selectOption('diagonals');
  expect(await sides()).toBe(2);
  await page.reload();
  await expect(lines).toHaveValue('diagonals');
});

test('a picture is made square both ways: by a crop that keeps every pixel, and by filling what that adds', async ({
  page,
}) => {
  const said = complaints(page);
  const id = await picture('Square');
  const source = await readPicture(PHOTO);
  await page.goto(`${server.address}/pictures/${id}/frame`);
  const sum = page.locator('.sum');
  await expect(sum).toContainText('the picture has this proportion already');
  await page.getByLabel('Proportion').selectOption('1:1');
  await expect(sum).toContainText(/adds 10[23] px at the top and 10[23] px at the bottom/);
  const crop = page.getByRole('article', { name: 'Crop' });
  await expect(crop).toContainText('20 % lost');

  // By hand: the subject is drawn, and is to stand at the left.
  await drawSubject(page);
  await lookAt(crop);
  await crop.getByRole('button', { name: 'Cut to this' }).click();
  await expect(page.getByText(/It stands like this\./)).toBeVisible();
  await expect.poll(async () => (await stateOf(id)).document.steps.length).toBe(1);
  const cut = (await stateOf(id)).document.steps.map((s) => s.spec);
  expect(cut).toMatchObject([{ step: 'canvas', box: { y: 0, width: 819, height: 819 } }]);
  const canvas = cut[0].step === 'canvas' ? cut[0].box : null!;
  const square = await exported(id);
  expect([square.width, square.height]).toEqual([819, 819]);
  let differ = 0;
  for (let y = 0; y < 819; y++)
    for (let i = 0; i < 819 * 3; i++)
      if (square.data[y * 819 * 3 + i] !== source.data[(y * 1024 + canvas.x) * 3 + i]) differ++;
  expect(differ).toBe(0);

  const extend = page.getByRole('article', { name: 'Fill the sides' });
  await lookAt(extend);
  await extend.getByRole('button', { name: 'Add and fill' }).click();
  await expect
    .poll(async () => (await stateOf(id)).statuses.map((s) => s.state), { timeout: 180_000 })
    .toEqual(['shown']);
  const { document } = await stateOf(id);
  expect(document.faults.map((f) => [f.kind, f.state])).toEqual([['gap', 'treated']]);
  const grown = await exported(id);
  expect([grown.width, grown.height]).toEqual([1024, 1024]);
  const step = document.steps[0].spec;
  const top = step.step === 'canvas' ? -step.box.y : 0;
  const kept = Buffer.from(grown.data).subarray(top * 3072, (top + 819) * 3072);
  expect(kept.equals(Buffer.from(source.data))).toBe(true);

  // Taken back it is as it came, and the fill is not lost: the same frame again needs none.
  await page.getByRole('button', { name: 'Back to as it came' }).click();
  await expect.poll(async () => (await stateOf(id)).document.steps.length).toBe(0);
  expect((await exported(id)).height).toBe(819);
  await extend.getByRole('button', { name: 'Add and fill' }).click();
  await expect.poll(async () => (await stateOf(id)).document.steps.length).toBe(1);
  expect((await stateOf(id)).document.faults).toHaveLength(1);
  expect(said).toEqual([]);
});

test('what a format adds is reached by stretching: the subject keeps every bit; then filled instead, and taken back', async ({
  page,
}) => {
  const said = complaints(page);
  const id = await picture('Wide');
  const source = await readPicture(PHOTO);
  await page.goto(`${server.address}/pictures/${id}/frame`);
  await page.getByLabel('Proportion').selectOption('16:9');
  const stretch = page.getByRole('article', { name: 'Stretch the background' });
  // Nothing is stretched before it is known what must not be.
  await expect(page.getByRole('article', { name: 'Fill the sides' })).toBeVisible();
  await expect(stretch).toHaveCount(0);
  await drawSubject(page);
  await lookAt(stretch);
  await expect(page.getByText(/1\.\d\d times at the left, 1\.\d\d at the right/)).toBeVisible();
  await stretch.getByRole('button', { name: 'Stretch to this' }).click();
  await expect(page.getByText(/It stands like this\./)).toBeVisible();
  const shown = () =>
    expect.poll(async () => (await stateOf(id)).statuses.map((s) => s.state), { timeout: 180_000 }).toEqual(['shown']);
  await shown();
  await expect(page.getByText(/It stands like this\..*Check/)).toBeVisible();
  const { document } = await stateOf(id);
  const { spec } = document.repairs[0].tries[0];
  if (spec.method !== 'stretch' || spec.guard[0].kind !== 'box') throw new Error('no stretch');
  const guard = spec.guard[0];
  const wide = await exported(id);
  expect([wide.width, wide.height]).toEqual([1456, 819]);
  const kept = (x: number, y: number, width: number) => 3 * (y * width + x);
  let [differ, moved] = [0, 0];
  for (let y = 0; y < 819; y++) {
    const [from, to] = [kept(guard.x, y, 1024), kept(guard.x - spec.onto.x, y, 1456)];
    for (let i = 0; i < 3 * guard.width; i++) if (wide.data[to + i] !== source.data[from + i]) differ++;
    for (let i = 0; i < 60; i++)
      if (wide.data[kept(-spec.onto.x, y, 1456) + i] !== source.data[kept(0, y, 1024) + i]) moved++;
  }
  expect(differ).toBe(0);
  expect(moved).toBeGreaterThan(30_000);

  // On the bench it says what it is, and leads back.
  await page.goto(`${server.address}/pictures/${id}/bench`);
  await page.getByRole('button', { name: /^Fault 1,/ }).click();
  await expect(page.getByText(/^Background drawn out 1\.\d\d times at the left/)).toBeVisible();
  await page.getByRole('link', { name: 'Frame' }).last().click();
  await page.getByLabel('Proportion').selectOption('16:9');

  const fill = page.getByRole('article', { name: 'Fill the sides' });
  await fill.getByRole('button', { name: 'Add and fill' }).click();
  await expect
    .poll(async () => (await stateOf(id)).document.repairs.map((r) => r.tries[0].spec.method))
    .toEqual(['fill']);
  await shown();
  expect(said).toEqual([]);
});

test('by keyboard: a line is drawn along what should be level, and what leaves is turned and has no gap', async ({
  page,
}) => {
  const id = await picture('Level');
  await page.goto(`${server.address}/pictures/${id}/frame`);
  await page.getByRole('button', { name: 'Draw a line' }).focus();
  await page.keyboard.press('Enter');
  const sheet = page.getByRole('application');
  await sheet.focus();
  await page.keyboard.press(' ');
  for (let n = 0; n < 4; n++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press(' ');
  // A step down over sixteen to the right: 3.58 degrees.
  await expect(page.getByText('3.6 °')).toBeVisible();
  const crop = page.getByRole('article', { name: 'Crop' });
  await lookAt(crop);
  await crop.getByRole('button', { name: 'Cut to this' }).click();
  await expect(page.getByText(/It stands like this\./)).toBeVisible();
  await expect.poll(async () => (await stateOf(id)).document.steps.length).toBe(1);
  const { document, undo } = await stateOf(id);
  expect(document.steps.map((s) => s.spec)).toMatchObject([{ step: 'turn', degrees: 3.58 }]);
  const spec = document.steps[0].spec;
  const kept = spec.step === 'turn' ? spec.crop! : null!;
  const turned = await exported(id);
  expect([turned.width, turned.height]).toEqual([kept.width, kept.height]);
  expect(undo).toBe(`Frame at ${kept.width} × ${kept.height}`);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await stateOf(id)).document.steps.length).toBe(0);
  expect((await exported(id)).width).toBe(1024);
});
