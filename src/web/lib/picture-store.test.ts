import type { PictureChanges, PictureState } from '../../contract/api.ts';
import { followPicture, refreshPicture, sendChange, stateOf } from './picture-store.ts';

const STRENGTHS = [1, 0.9, 0.8];

/** A picture with one repair, after `number` edits that weakened it. */
const state = (number: number): PictureState => ({
  picture: { id: 'p', jobId: 'j', name: 'a', facts: {} as never, revision: number },
  document: { faults: [], layers: [], repairs: [{ id: 'r', order: 1, strength: 1 } as never], steps: [] },
  statuses: [],
  undo: null,
  redo: null,
  pixels: { epoch: 'e', version: 0, across: 1, tiles: [] },
  mark: `e.${number}`,
});
const changes = (since: number, to: number): PictureChanges => ({
  since: `e.${since}`,
  mark: `e.${to}`,
  revision: to,
  operations: STRENGTHS.slice(since + 1, to + 1).map((after) => ({
    kind: 'repair',
    id: 'r',
    op: 'set',
    path: ['strength'],
    after,
  })),
  statuses: [],
  states: {},
  undo: null,
  redo: null,
  pixels: { epoch: 'e', version: 0, across: 1, tiles: [] },
});

/** Answers of the server that are not given yet, in the order in which they were asked for. */
const owed: Array<{ path: string; give(body: unknown): void }> = [];
globalThis.fetch = ((path: string) =>
  new Promise((resolve) => {
    owed.push({ path, give: (body) => resolve(new Response(JSON.stringify(body), { status: 200 })) });
  })) as typeof fetch;
const later = () => new Promise((resolve) => setTimeout(resolve, 0));
const give = async (body: unknown) => {
  owed.shift()!.give(body);
  await later();
};
const strength = () => stateOf('p')!.document.repairs[0].strength;

test('an edit whose answer crosses a question that went out before it counts as shown only once the state holds it', async () => {
  followPicture('p', () => undefined);
  await give(state(0));
  expect(strength()).toBe(1);

  // Something else changed on the server: this window asks for it, and edits before it hears.
  refreshPicture('p', 'e.1');
  expect(owed).toHaveLength(1);
  const seen: number[] = [];
  let answer!: (a: PictureChanges) => void;
  const sent = sendChange(
    'p',
    (known) => {
      expect(known).toBe('e.0');
      return new Promise<PictureChanges>((resolve) => (answer = resolve));
    },
    (a) => a,
    () => seen.push(strength()),
  );
  // The question is answered with a state that the edit's answer does not follow from.
  await give(changes(0, 1));
  expect(strength()).toBe(0.9);
  answer({ ...changes(0, 2), since: 'e.0' });
  await later();
  expect(seen).toEqual([]);
  expect(owed.map((o) => o.path)).toEqual([expect.stringContaining('since=e.1')]);
  await give(changes(1, 2));
  await sent;
  expect(seen).toEqual([0.8]);
});

test('an edit answered while an older question is still out waits for the next one', async () => {
  await later();
  refreshPicture('p', 'e.3');
  expect(owed).toHaveLength(1);
  const seen: number[] = [];
  // The server was opened anew for this one: its mark follows from nothing that is known.
  const sent = sendChange(
    'p',
    () => Promise.resolve({ ...changes(0, 2), since: 'f.0', mark: 'f.1', operations: [] }),
    (a) => a,
    () => seen.push(owed.length),
  );
  await later();
  expect(seen).toEqual([]);
  await give({ ...changes(2, 2), mark: 'e.3' });
  expect(seen).toEqual([]);
  expect(owed).toHaveLength(1);
  await give({ ...state(0), mark: 'f.1' });
  await sent;
  expect(seen).toEqual([0]);
});
