import { Cancelled } from '../work/work.ts';
import { Updates } from './updates.ts';

const still = new AbortController().signal;
/** Work that ends only when it is stopped. */
const endless = (signal: AbortSignal) =>
  new Promise<void>((_, reject) => signal.addEventListener('abort', () => reject(new Cancelled()), { once: true }));

test('painting stops an update, which is no failure', async () => {
  const updates = new Updates();
  const made = updates.run('p', still, endless);
  updates.painted('other');
  updates.painted('p');
  expect(await made).toBe(false);
  expect(await updates.run('p', still, () => Promise.resolve())).toBe(true);
});

test('one that is stopped by hand, or fails, says so', async () => {
  const updates = new Updates();
  const stop = new AbortController();
  const made = updates.run('p', stop.signal, endless);
  stop.abort();
  await expect(made).rejects.toThrow(Cancelled);
  await expect(updates.run('p', still, () => Promise.reject(new Error('no')))).rejects.toThrow('no');
});

test('nothing is made again while strokes follow one another, and at once where none was painted', async () => {
  const updates = new Updates();
  expect(await updates.rested('p')).toBe(false);
  updates.painted('p');
  const from = Date.now();
  setTimeout(() => updates.painted('p'), 800);
  expect(await updates.rested('p')).toBe(true);
  expect(Date.now() - from).toBeGreaterThanOrEqual(3200);
});

test('what is held waits until it is asked for', () => {
  const updates = new Updates();
  updates.hold('p', true);
  expect([updates.isHeld('p'), updates.isHeld('q')]).toEqual([true, false]);
  updates.hold('p', false);
  expect(updates.isHeld('p')).toBe(false);
});
