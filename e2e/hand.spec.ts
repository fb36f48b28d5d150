import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import sharp from 'sharp';
import type { PictureState } from '../src/contract/api.ts';
import { closeUpReady, complaints, draw, onPage, setDonor } from './bench.ts';
import { TestServer } from './server.ts';

const server = new TestServer();
test.beforeAll(() => server.start());
test.afterAll(() => server.kill());

interface Region {
  left: number;
  top: number;
  width: number;
  height: number;
}
const CRACKED: Region = { left: 1900, top: 1000, width: 360, height: 300 };

async function take(name: string, file: Buffer): Promise<string> {
  const job = await server.json<{ id: string }>('/jobs', 'POST', { name, longSideMm: 200 });
  return (await server.json<{ id: string }>(`/jobs/${job.id}/pictures?name=${name}.png`, 'POST', file)).id;
}
const cut = (name: string, region: Region) => sharp(`demo/pictures/${name}.jpg`).extract(region).png().toBuffer();
const look = (id: string) => server.json<PictureState>(`/pictures/${id}`);
const spec = (state: PictureState, at = -1) => {
  const repair = state.document.repairs.toSorted((a, b) => a.order - b.order).at(at)!;
  return { repair, spec: repair.tries.find((t) => t.id === repair.chosen)!.spec };
};
/** All repairs are rendered as they are now set. */
const settled = (id: string) =>
  expect.poll(async () => (await look(id)).statuses.every((s) => s.state === 'shown')).toBe(true);

/** Mean difference from a truth within a box of the picture, levels. */
async function away(id: string, truth: Buffer, box: Region): Promise<number> {
  const now = await sharp(await server.bytes(`/pictures/${id}/export?format=png`))
    .removeAlpha()
    .extract(box)
    .raw()
    .toBuffer();
  const right = await sharp(truth).removeAlpha().extract(box).raw().toBuffer();
  let sum = 0;
  for (let i = 0; i < now.length; i++) sum += Math.abs(now[i] - right[i]);
  return sum / now.length;
}
async function centre(page: Page, x: number, y: number, scale: number): Promise<void> {
  await page.evaluate(
    ([px, py, s]) =>
      (window as never as { tersumView: { centreOn(x: number, y: number, s: number): void } }).tersumView.centreOn(
        px,
        py,
        s,
      ),
    [x, y, scale] as const,
  );
  await closeUpReady(page);
}

test('a contour broken by a crease is rebuilt by copy; an old repair is weakened, its donor dragged, its parts hidden', async ({
  page,
}) => {
  const said = complaints(page);
  const truth = await cut('cottage-truth', CRACKED);
  const id = await take('crease', await cut('cottage', CRACKED));
  const jamb: Region = { left: 172, top: 144, width: 36, height: 40 };
  const before = await away(id, truth, jamb);
  await page.goto(`${server.address}/pictures/${id}/bench`);
  await closeUpReady(page);
  await centre(page, 180, 150, 2);

  // Without a donor a copy says what is missing.
  await page
    .getByRole('button', { name: 'Copy', exact: true })
    .or(page.getByRole('radio', { name: 'Copy' }))
    .click();
  await draw(page, [
    [190, 148],
    [190, 150],
  ]);
  await expect(page.getByText(/Choose a donor first/)).toBeVisible();
  expect((await look(id)).document.repairs).toHaveLength(0);

  for (let n = 0; n < 3; n++) await page.keyboard.press('.');
  // The donor travels along the jamb: pick-up and put-down points lie on the same line of the structure.
  await setDonor(page, 190, 103);
  await draw(page, [
    [190, 148],
    [190, 166],
    [190, 184],
  ]);
  await expect.poll(async () => (await look(id)).document.repairs.length).toBe(1);
  await settled(id);
  const { spec: copied } = spec(await look(id));
  expect(copied).toMatchObject({ method: 'copy', donor: { turn: 0, scale: 1, travels: true } });
  const after = await away(id, truth, jamb);
  expect(after).toBeLessThan(0.35 * before);

  // A second stroke with the same donor goes onto the same repair.
  await draw(page, [
    [182, 150],
    [182, 182],
  ]);
  await expect
    .poll(async () => {
      const { spec: s } = spec(await look(id));
      return 'strokes' in s ? s.strokes.length : 0;
    })
    .toBe(2);
  expect((await look(id)).document.repairs).toHaveLength(1);
  expect((await look(id)).document.faults).toHaveLength(1);

  // A blend of another place: a repair of its own.
  await page.keyboard.press('Escape');
  await page.keyboard.press('1');
  await page.mouse.click((await onPage(page, 60, 40)).x, (await onPage(page, 60, 40)).y);
  await page.keyboard.press('5');
  await draw(page, [
    [252, 150],
    [262, 152],
  ]);
  await expect.poll(async () => (await look(id)).document.repairs.length).toBe(2);
  await settled(id);
  expect(spec(await look(id)).spec.method).toBe('blend');

  // The old one is weakened with the keys, and stays a copy with its strokes.
  await page.getByRole('button', { name: /^Fault 1,/ }).click();
  for (let n = 0; n < 4; n++) await page.keyboard.press('[');
  await expect.poll(async () => spec(await look(id), 0).repair.strength).toBeCloseTo(0.6);
  await settled(id);
  const weak = await away(id, truth, jamb);
  expect(weak).toBeGreaterThan(after);
  expect(weak).toBeLessThan(before);
  for (let n = 0; n < 4; n++) await page.keyboard.press(']');
  await expect.poll(async () => spec(await look(id), 0).repair.strength).toBeCloseTo(1);

  // Its donor is dragged on the picture: 20 px up, and what is seen follows.
  await page.keyboard.press('4');
  await centre(page, 180, 130, 2);
  const dragged = await look(id);
  const old = spec(dragged, 0).spec;
  if (old.method !== 'copy') throw new Error('no copy');
  const ring = [186, 121] as const;
  await draw(page, [
    [ring[0], ring[1]],
    [ring[0], ring[1] - 20],
  ]);
  await expect
    .poll(async () => {
      const { spec: s } = spec(await look(id), 0);
      return s.method === 'copy' ? s.donor.from[1] - old.donor.from[1] : 0;
    })
    .toBeCloseTo(-20, 0);
  await settled(id);
  await page.keyboard.press('Control+z');
  await expect
    .poll(async () => {
      const { spec: s } = spec(await look(id), 0);
      return s.method === 'copy' ? s.donor.from[1] : 0;
    })
    .toBe(old.donor.from[1]);
  await settled(id);
  expect(await away(id, truth, jamb)).toBeLessThan(0.35 * before);

  // Switched to blend and back; nothing is lost.
  await page.getByRole('button', { name: 'Switch to blend' }).click();
  await expect.poll(async () => spec(await look(id), 0).spec.method).toBe('blend');
  await page.getByRole('button', { name: 'Switch to copy' }).click();
  await expect.poll(async () => spec(await look(id), 0).spec.method).toBe('copy');
  await settled(id);

  // A part of it is hidden with the brush, then all of it is shown again.
  await page.keyboard.press('0');
  await draw(page, [
    [190, 160],
    [190, 172],
  ]);
  await expect.poll(async () => spec(await look(id), 0).repair.reveal?.length ?? 0).toBe(1);
  await settled(id);
  expect(await away(id, truth, jamb)).toBeGreaterThan(1.5 * after);
  await page.getByRole('button', { name: 'Show all of it' }).click();
  await expect.poll(async () => spec(await look(id), 0).repair.reveal?.length ?? 0).toBe(0);
  await settled(id);
  expect(await away(id, truth, jamb)).toBeLessThan(0.35 * before);

  const { violations } = await new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa', 'wcag22aa']).analyze();
  expect(violations.filter((v) => v.impact === 'serious' || v.impact === 'critical').map((v) => v.id)).toEqual([]);
  expect(said).toEqual([]);
});

test('a broken window is rebuilt from its twin: lifted, pose solved, put down hidden and revealed with a brush', async ({
  page,
}) => {
  const said = complaints(page);
  const region: Region = { left: 780, top: 740, width: 1420, height: 560 };
  const truth = await cut('cottage-truth', region);
  const hole = Buffer.from('<svg width="60" height="60"><circle cx="30" cy="30" r="28" fill="#f6f3ee"/></svg>');
  const id = await take(
    'twin',
    await sharp(truth)
      .composite([{ input: hole, left: 1172, top: 400 }])
      .png()
      .toBuffer(),
  );
  const cross: Region = { left: 1172, top: 400, width: 60, height: 60 };
  const before = await away(id, truth, cross);
  await page.goto(`${server.address}/pictures/${id}/bench`);
  await closeUpReady(page);
  await page.keyboard.press('2');
  await page.keyboard.press('w');
  await draw(page, [
    [1170, 398],
    [1234, 398],
    [1234, 462],
    [1170, 462],
    [1170, 400],
  ]);
  await page.getByRole('button', { name: /^Fault 1,/ }).waitFor();
  await page.keyboard.press('8');
  await draw(page, [
    [26, 332],
    [184, 332],
    [184, 522],
    [26, 522],
    [26, 334],
  ]);
  await page.getByRole('button', { name: 'Put down' }).waitFor();
  // Put down where it lies it would be no transplant of anything: it is dragged to about its place.
  await draw(page, [
    [105, 430],
    [700, 440],
    [1190, 446],
  ]);
  await page.getByRole('button', { name: 'Solve pose' }).click();
  await expect(page.getByText(/Solved pose: agrees \d\d/)).toBeVisible();
  await page.getByText('hidden, to be revealed').click();
  await page.getByRole('button', { name: 'Put down' }).click();
  await expect.poll(async () => (await look(id)).document.repairs.length).toBe(1);
  await settled(id);
  const { spec: put, repair } = spec(await look(id));
  if (put.method !== 'transplant') throw new Error('no transplant');
  // The twin stands 1100 px to the right, upright and of the same size.
  expect(Math.hypot(put.donor.at[0] - put.donor.from[0] - 1100, put.donor.at[1] - put.donor.from[1])).toBeLessThan(1);
  expect(Math.abs(put.donor.turn)).toBeLessThan(0.5);
  expect(Math.abs(put.donor.scale - 1)).toBeLessThan(0.01);
  expect(repair.reveal).toHaveLength(1);
  expect(await away(id, truth, cross)).toBeCloseTo(before, 1);

  // Revealed only where it is needed.
  for (let n = 0; n < 6; n++) await page.keyboard.press('.');
  await centre(page, 1200, 430, 2);
  await draw(page, [
    [1180, 412],
    [1224, 412],
    [1224, 426],
    [1180, 426],
    [1180, 440],
    [1224, 440],
    [1224, 452],
    [1180, 452],
  ]);
  await expect.poll(async () => spec(await look(id)).repair.reveal?.length).toBe(2);
  await settled(id);
  expect(await away(id, truth, cross)).toBeLessThan(0.3 * before);
  // Away from the strokes the original is bit for bit what it was.
  expect(await away(id, truth, { left: 1095, top: 300, width: 40, height: 240 })).toBe(0);
  expect(said).toEqual([]);
});

test('by keys alone: donor and dabs at the cross, a cover patched and moved with the arrows', async ({ page }) => {
  const said = complaints(page);
  const id = await take('keys', await cut('cottage', CRACKED));
  await page.goto(`${server.address}/pictures/${id}/bench`);
  await closeUpReady(page);
  await page.mouse.move(5, 5);
  await page.keyboard.press('End');
  await centre(page, 190, 110, 1);
  await page.keyboard.press('4');
  await page.keyboard.press('ArrowDown');
  await closeUpReady(page);
  const cross = () =>
    page.evaluate(() => {
      const v = (window as never as { tersumView: { toImage(x: number, y: number): [number, number] } }).tersumView;
      const c = document.querySelector('[data-testid=close-up]')!;
      return v.toImage(c.clientWidth / 2, c.clientHeight / 2);
    });
  const [, taken] = await cross();
  await page.keyboard.press('d');
  for (let n = 0; n < 2; n++) await page.keyboard.press('ArrowDown');
  await closeUpReady(page);
  const [, put] = await cross();
  // Two presses of 24 px of the screen each, both of them counted.
  const scale = await page.evaluate(() => (window as never as { tersumView: { scale(): number } }).tersumView.scale());
  expect(Math.abs((put - taken) * scale - 48)).toBeLessThan(1.5);
  await page.keyboard.press(' ');
  await expect.poll(async () => (await look(id)).document.repairs.length).toBe(1);
  await settled(id);
  const { spec: s } = spec(await look(id));
  if (s.method !== 'copy') throw new Error('no copy');
  expect(Math.abs(s.donor.at[1] - s.donor.from[1] - (put - taken))).toBeLessThan(1);
  expect(s.strokes).toHaveLength(1);

  // The fault's cover as a patch, taken from 60 px above.
  await page.getByRole('button', { name: /^Fault 1,/ }).focus();
  await page.keyboard.press('7');
  await page.getByRole('button', { name: /cover$/ }).focus();
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Put down' }).waitFor();
  await page.evaluate(() => (document.activeElement as HTMLElement).blur());
  for (let n = 0; n < 6; n++) await page.keyboard.press('Shift+ArrowUp');
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await look(id)).document.repairs.length).toBe(2);
  await settled(id);
  const { spec: patched } = spec(await look(id));
  if (patched.method !== 'patch') throw new Error('no patch');
  expect(Math.round(patched.donor.from[1] - patched.donor.at[1])).toBe(-60);
  expect(said).toEqual([]);
});

test('layers: grouped, dragged, shown alone, duplicated, merged, all undone; a patch and a shade by mouse', async ({
  page,
}) => {
  const said = complaints(page);
  const id = await take('layers', await cut('cottage', CRACKED));
  await page.goto(`${server.address}/pictures/${id}/bench`);
  await closeUpReady(page);
  await centre(page, 180, 150, 2);

  // A patch: the bad area outlined, dragged to a good one with the preview in place, put down.
  await page.keyboard.press('7');
  await draw(page, [
    [30, 240],
    [70, 240],
    [70, 270],
    [30, 270],
    [30, 242],
  ]);
  await page.getByRole('button', { name: 'Put down' }).waitFor();
  await page.getByRole('button', { name: 'Put down' }).click();
  await expect(page.getByText('Drag it first')).toBeVisible();
  await draw(page, [
    [50, 255],
    [80, 235],
    [110, 220],
  ]);
  await page.getByRole('button', { name: 'Put down' }).click();
  await expect.poll(async () => (await look(id)).document.repairs.length).toBe(1);
  await settled(id);
  const { spec: patched } = spec(await look(id));
  if (patched.method !== 'patch') throw new Error('no patch');
  expect(patched.donor.from[0] - patched.donor.at[0]).toBeCloseTo(60, -1);

  // A shade on a layer of its own.
  await page.getByRole('button', { name: 'New layer' }).click();
  await page.getByRole('group', { name: 'Layer Layer 2' }).getByRole('textbox').first().click();
  await page.keyboard.press('Tab');
  await page.keyboard.press('Escape');
  await page.keyboard.press('1');
  await page.mouse.click((await onPage(page, 300, 60)).x, (await onPage(page, 300, 60)).y);
  await page.keyboard.press('9');
  await draw(page, [
    [290, 60],
    [330, 66],
  ]);
  await expect.poll(async () => (await look(id)).document.repairs.length).toBe(2);
  await settled(id);
  const names = async () => (await look(id)).document.layers.map((l) => l.name);
  expect(spec(await look(id)).spec.method).toBe('shade');
  const before = await server.bytes(`/pictures/${id}/export?format=png`);
  expect(await names()).toEqual(['Objects', 'Layer 2']);

  // Grouped, and the group hidden and shown at once.
  const group = page.getByRole('textbox', { name: 'Group of layer Layer 2' });
  await group.fill('Left wall');
  await group.press('Enter');
  await page.getByRole('heading', { name: 'Left wall' }).waitFor();
  await page.getByRole('button', { name: 'Hide all of Left wall' }).click();
  await expect.poll(async () => (await look(id)).document.layers[1].visible).toBe(false);
  await page.getByRole('button', { name: 'Show all of Left wall' }).click();
  await expect.poll(async () => (await look(id)).document.layers[1].visible).toBe(true);

  // Dragged beneath the other, and put back by its arrow.
  const grip = (await page.getByRole('group', { name: 'Layer Layer 2' }).locator('.grip').boundingBox())!;
  const target = (await page.getByRole('group', { name: 'Layer Objects' }).boundingBox())!;
  await page.mouse.move(grip.x + 5, grip.y + 5);
  await page.mouse.down();
  await page.mouse.move(target.x + 60, target.y + target.height / 2 - 3, { steps: 8 });
  await page.mouse.move(target.x + 60, target.y + target.height / 2, { steps: 4 });
  await page.mouse.up();
  await expect.poll(names).toEqual(['Layer 2', 'Objects']);
  await page.getByRole('button', { name: 'Move Layer 2 up' }).click();
  await expect.poll(names).toEqual(['Objects', 'Layer 2']);

  // Shown alone: its tiles hold grey where it puts nothing.
  await page.getByRole('button', { name: 'Only layer Layer 2' }).click();
  const layer = (await look(id)).document.layers[1].id;
  const alone = await sharp(await server.bytes(`/pictures/${id}/tiles/only-${layer}/x.1/0/0/0`))
    .removeAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true });
  const at = (x: number, y: number) => alone.data[(y * alone.info.width + x) * 3];
  expect(at(50, 255)).toBe(128);
  expect(at(310, 63)).not.toBe(128);
  await page.getByRole('button', { name: 'Only layer Layer 2' }).click();

  await page.getByRole('group', { name: 'Layer Layer 2' }).getByRole('textbox').first().click();
  await page.getByRole('button', { name: 'Duplicate layer Layer 2' }).click();
  await expect.poll(async () => (await look(id)).document.repairs.length).toBe(3);
  await settled(id);
  expect((await server.bytes(`/pictures/${id}/export?format=png`)).equals(before)).toBe(false);
  await page.getByRole('group', { name: 'Layer Layer 2 (copy)' }).getByRole('textbox').first().click();
  await page.getByRole('button', { name: 'Merge layer Layer 2 (copy) into the one beneath' }).click();
  await expect.poll(names).toEqual(['Objects', 'Layer 2']);
  expect((await look(id)).document.repairs).toHaveLength(3);
  await page.evaluate(() => (document.activeElement as HTMLElement).blur());
  for (let n = 0; n < 2; n++) await page.keyboard.press('Control+z');
  await expect.poll(async () => (await look(id)).document.repairs.length).toBe(2);
  await settled(id);
  expect((await server.bytes(`/pictures/${id}/export?format=png`)).equals(before)).toBe(true);
  const { violations } = await new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa', 'wcag22aa']).analyze();
  expect(violations.filter((v) => v.impact === 'serious' || v.impact === 'critical').map((v) => v.id)).toEqual([]);
  expect(said).toEqual([]);
});

test('a donor that returns, one turned by its knob, grain, and the original brought back', async ({ page }) => {
  const said = complaints(page);
  const id = await take('more', await cut('cottage-truth', { left: 1000, top: 500, width: 700, height: 500 }));
  await page.goto(`${server.address}/pictures/${id}/bench`);
  await closeUpReady(page);
  await centre(page, 350, 250, 1.4);
  await page.keyboard.press('4');
  await setDonor(page, 250, 160);
  await page.getByRole('radio', { name: 'returns' }).click();
  for (const y of [160, 220])
    await draw(page, [
      [400, y],
      [440, y],
    ]);
  await expect
    .poll(async () => {
      const { repairs } = (await look(id)).document;
      return repairs.length && spec(await look(id)).spec;
    })
    .toMatchObject({ method: 'copy', donor: { travels: false }, strokes: [{}, {}] });
  expect((await look(id)).document.repairs).toHaveLength(1);

  // Travelling again it is another repair; its knob turns and sizes the donor on the picture.
  await page.getByRole('radio', { name: 'travels' }).click();
  await draw(page, [
    [400, 300],
    [440, 300],
  ]);
  await expect.poll(async () => (await look(id)).document.repairs.length).toBe(2);
  await settled(id);
  const { spec: placed } = spec(await look(id));
  if (placed.method !== 'copy') throw new Error('no copy');
  const middle = await onPage(
    page,
    placed.donor.from[0] + 420 - placed.donor.at[0],
    placed.donor.from[1] + 300 - placed.donor.at[1],
  );
  const far = (placed.strokes[0].size / 2) * 1.4 + 26;
  await page.mouse.move(middle.x, middle.y - far);
  await page.mouse.down();
  await page.mouse.move(middle.x + far, middle.y - far, { steps: 5 });
  await page.mouse.move(middle.x + 1.5 * far, middle.y, { steps: 5 });
  await page.mouse.up();
  const pose = async () => {
    const { spec: s } = spec(await look(id));
    return s.method === 'copy' ? s.donor : placed.donor;
  };
  await expect.poll(async () => Math.round((await pose()).turn / 5) * 5).toBe(90);
  expect((await pose()).scale).toBeCloseTo(1.5, 0);

  await page.keyboard.press('9');
  await page.getByRole('radio', { name: 'Grain' }).click();
  await draw(page, [
    [390, 300],
    [470, 300],
  ]);
  await expect.poll(async () => (await look(id)).document.repairs.length).toBe(3);
  await settled(id);
  await expect(page.getByText(/^Grain here [\d.]+, around [\d.]+ levels/)).toBeVisible();

  // Through every layer the original is seen again, bit for bit, in the outlined area.
  await page.keyboard.press('0');
  await page.getByRole('radio', { name: 'Bring back the original' }).click();
  await draw(page, [
    [370, 130],
    [470, 130],
    [470, 330],
    [370, 330],
    [370, 132],
  ]);
  await expect.poll(async () => (await look(id)).document.layers.every((l) => l.reveal?.length === 1)).toBe(true);
  await settled(id);
  const truth = await cut('cottage-truth', { left: 1000, top: 500, width: 700, height: 500 });
  expect(await away(id, truth, { left: 380, top: 140, width: 80, height: 180 })).toBe(0);
  expect(said).toEqual([]);
});
