import { expect, test, type Locator, type Page } from '@playwright/test';
import sharp from 'sharp';
import { readPicture } from '../bench/planted.ts';
import type { PictureState } from '../src/contract/api.ts';
import { complaints } from './bench.ts';
import { TestServer } from './server.ts';

const server = new TestServer();
test.beforeAll(() => server.start());
test.afterAll(() => server.kill());

/** The demo's lamp and its whole, smaller. */
const [WIDE, HIGH] = [400, 600];
const small = (name: string, width: number) => sharp(`demo/pictures/${name}.jpg`).resize({ width });
/** Around the lamp. */
const LAMP = { x: 72, y: 144, width: 136, height: 384 };

const stateOf = (id: string) => server.json<PictureState>(`/pictures/${id}`);
const exported = async (id: string) => readPicture(await server.bytes(`/pictures/${id}/export?format=png`));
const methodOf = async (id: string) => (await stateOf(id)).document.repairs.map((r) => r.tries[0].spec.method);
const shown = (id: string) =>
  expect.poll(async () => (await stateOf(id)).statuses.map((s) => s.state), { timeout: 180_000 }).toEqual(['shown']);

/** How somebody works: with the mouse, or with keys alone. */
interface Hand {
  press(button: Locator): Promise<void>;
  drawSubject(page: Page): Promise<void>;
  standsLeft(page: Page): Promise<void>;
}
const HANDS: Record<'mouse' | 'keys', Hand> = {
  mouse: {
    press: (button) => button.click(),
    async drawSubject(page) {
      const place = (x: number, y: number) =>
        page.getByRole('application').evaluate(
          (svg, [px, py]) => {
            const at = new DOMPoint(px, py).matrixTransform((svg as unknown as SVGSVGElement).getScreenCTM()!);
            return { x: at.x, y: at.y };
          },
          [x, y] as const,
        );
      const [from, to] = [await place(LAMP.x, LAMP.y), await place(LAMP.x + LAMP.width, LAMP.y + LAMP.height)];
      await page.mouse.move(from.x, from.y);
      await page.mouse.down();
      await page.mouse.move(to.x, to.y, { steps: 4 });
      await page.mouse.up();
    },
    standsLeft: (page) => page.getByRole('radiogroup', { name: 'Stands across' }).getByText('left').click(),
  },
  keys: {
    async press(button) {
      // While the subject's edge is being found it cannot be pressed.
      await expect(button).toBeEnabled({ timeout: 90_000 });
      await button.focus();
      await button.press('Enter');
    },
    async drawSubject(page) {
      await page.getByRole('application').focus();
      // From the middle by steps of 12 px, with Shift of 48: to 68, 144 and on to 212, 528.
      const go = async (key: string, times: number) => {
        for (let n = 0; n < times; n++) await page.keyboard.press(key);
      };
      await go('Shift+ArrowLeft', 2);
      await go('ArrowLeft', 3);
      await go('Shift+ArrowUp', 3);
      await go('ArrowUp', 1);
      await page.keyboard.press(' ');
      await go('Shift+ArrowRight', 3);
      await go('Shift+ArrowDown', 8);
      await page.keyboard.press(' ');
    },
    async standsLeft(page) {
      const chosen = page.getByRole('radiogroup', { name: 'Stands across' }).getByRole('radio', { checked: true });
      await chosen.focus();
      for (let n = 0; n < 4 && !(await page.getByRole('radio', { name: 'left' }).isChecked()); n++)
        await page.keyboard.press('ArrowRight');
    },
  },
};

for (const [how, hand] of Object.entries(HANDS))
  test(`the lamp is made square with it on a third, filled and drawn out, taken back and brought again, by ${how}`, async ({
    page,
  }) => {
    test.setTimeout(300_000);
    const said = complaints(page);
    const job = await server.json<{ id: string }>('/jobs', 'POST', { name: `Lamp, by ${how}` });
    const png = await small('lamp', WIDE).png().toBuffer();
    const { id } = await server.json<{ id: string }>(`/jobs/${job.id}/pictures?name=lamp.png`, 'POST', png);
    const source = await readPicture(png);
    expect([source.width, source.height]).toEqual([WIDE, HIGH]);

    await page.goto(`${server.address}/pictures/${id}/frame`);
    await page.getByLabel('Proportion').selectOption('1:1');
    await hand.press(page.getByRole('button', { name: 'Draw around it' }));
    await hand.drawSubject(page);
    await hand.standsLeft(page);
    await expect(page.locator('.sum')).toContainText(/adds [56]\d px on the left and 1[34]\d px on the right/);

    const fill = page.getByRole('article', { name: 'Fill the sides' });
    await hand.press(fill.getByRole('button', { name: 'Add and fill' }));
    // Whoever goes by keys stays where they were, though the button is gone.
    if (how === 'keys') await expect(fill).toBeFocused();
    await expect.poll(() => methodOf(id)).toEqual(['fill']);
    await shown(id);
    const filled = await exported(id);
    expect([filled.width, filled.height]).toEqual([HIGH, HIGH]);
    const left = -(await stateOf(id)).document.steps.flatMap(({ spec }) =>
      spec.step === 'canvas' ? spec.box.x : [],
    )[0];
    let differ = 0;
    for (let y = 0; y < HIGH; y++)
      for (let i = 0; i < 3 * WIDE; i++)
        if (filled.data[3 * (y * HIGH + left) + i] !== source.data[3 * y * WIDE + i]) differ++;
    expect(differ).toBe(0);
    // Beside it the same canvas above the same table: about as light as what the camera did not take in.
    const truth = await readPicture(await small('lamp-truth', HIGH).png().toBuffer());
    for (const [from, to] of [
      [0, 380],
      [480, HIGH],
    ]) {
      let off = 0;
      for (let y = from; y < to; y++)
        for (let x = left + WIDE; x < HIGH; x++)
          off += filled.data[3 * (y * HIGH + x)] - truth.data[3 * (y * HIGH + x)];
      expect(Math.abs(off / ((to - from) * (HIGH - left - WIDE)))).toBeLessThan(14);
    }

    const stretch = page.getByRole('article', { name: 'Stretch the background' });
    await hand.press(stretch.getByRole('button', { name: 'Look at it' }));
    await hand.press(stretch.getByRole('button', { name: 'Stretch to this' }));
    await expect.poll(() => methodOf(id)).toEqual(['stretch']);
    await shown(id);
    const drawn = await exported(id);
    const [repair] = (await stateOf(id)).document.repairs;
    const { spec } = repair.tries[0];
    if (spec.method !== 'stretch' || spec.guard[0].kind !== 'box') throw new Error('no stretch');
    const guard = spec.guard[0];
    for (let y = Math.ceil(guard.y); y < guard.y + guard.height - 1; y++) {
      const [from, to] = [Math.ceil(guard.x), Math.floor(guard.x + guard.width)];
      const own = drawn.data.slice(3 * (y * HIGH + left + from), 3 * (y * HIGH + left + to));
      expect(Buffer.from(own)).toEqual(Buffer.from(source.data.slice(3 * (y * WIDE + from), 3 * (y * WIDE + to))));
    }

    // One is taken back for the other, and brought again.
    await hand.press(page.getByRole('button', { name: /^Undo: / }));
    await expect.poll(() => methodOf(id)).toEqual(['fill']);
    await shown(id);
    expect(Buffer.from((await exported(id)).data).equals(Buffer.from(filled.data))).toBe(true);
    await page.keyboard.press('Control+Shift+z');
    await expect.poll(() => methodOf(id)).toEqual(['stretch']);
    await shown(id);
    expect(Buffer.from((await exported(id)).data).equals(Buffer.from(drawn.data))).toBe(true);
    expect(said).toEqual([]);
  });
