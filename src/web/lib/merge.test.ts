import type { PictureChanges, PictureState, RepairStatus } from '../../contract/api.ts';
import { merged } from './merge.ts';

const fault = (id: string, number: number) =>
  ({
    id,
    number,
    kind: 'speck',
    shapes: [],
    margin: 1,
    feather: 0,
    state: 'open',
  }) as PictureState['document']['faults'][number];
const status = (id: string, state: RepairStatus['state']): RepairStatus => ({ id, state, tries: {} });
const state = (mark: string, set: Partial<PictureState> = {}): PictureState => ({
  picture: { id: 'p', jobId: 'j', name: 'a', facts: {} as never, revision: 4 },
  document: { faults: [fault('a', 1)], layers: [], repairs: [{ id: 'r', order: 1 } as never], steps: [] },
  statuses: [status('r', 'working')],
  undo: null,
  redo: null,
  pixels: {
    epoch: 'e',
    version: 2,
    across: 4,
    tiles: [
      [0, 1],
      [3, 2],
    ],
  },
  mark,
  ...set,
});
const changes = (since: string, mark: string, set: Partial<PictureChanges> = {}): PictureChanges => ({
  since,
  mark,
  revision: 5,
  operations: [],
  statuses: [],
  states: {},
  undo: 'Mark fault 2',
  redo: null,
  pixels: { epoch: 'e', version: 3, across: 4, tiles: [[3, 3]] },
  ...set,
});

test('what changed is put onto what is known; rows that did not change stay the same objects', () => {
  const now = state('e.7');
  const next = merged(
    now,
    changes('e.7', 'e.9', {
      operations: [{ kind: 'fault', id: 'b', op: 'put', after: fault('b', 2) }],
      statuses: [status('r', 'shown')],
    }),
  )!;
  expect(next.document.faults.map((f) => f.number)).toEqual([1, 2]);
  expect(next.document.faults[0]).toBe(now.document.faults[0]);
  expect(next.document.repairs).toBe(now.document.repairs);
  expect(next).toMatchObject({
    mark: 'e.9',
    undo: 'Mark fault 2',
    picture: { revision: 5 },
    statuses: [{ id: 'r', state: 'shown' }],
  });
  expect(new Map(next.pixels.tiles)).toEqual(
    new Map([
      [0, 1],
      [3, 3],
    ]),
  );
});

test('a state alone comes by the place of its repair, the rest of the status stays', () => {
  const now = state('e.7', { statuses: [{ ...status('r', 'shown'), tries: { t: {} as never } }] });
  const next = merged(now, changes('e.7', 'e.8', { states: { stale: [0] } }))!;
  expect(next.statuses).toEqual([{ id: 'r', state: 'stale', tries: { t: {} } }]);
});

test('a status of a repair that is gone goes with it', () => {
  const next = merged(
    state('e.7'),
    changes('e.7', 'e.8', { operations: [{ kind: 'repair', id: 'r', op: 'put', after: null }] }),
  )!;
  expect([next.document.repairs, next.statuses]).toEqual([[], []]);
});

test('answers that overtake one another: the newer stays, a gap is asked for', () => {
  const now = state('e.9');
  expect(merged(now, changes('e.7', 'e.9'))).toBe(now);
  expect(merged(now, changes('e.5', 'e.8'))).toBe(now);
  expect(merged(now, state('e.8'))).toBe(now);
  expect(merged(now, changes('e.8', 'e.11'))).toBeNull();
  expect(merged(now, changes('other.9', 'other.10'))).toBeNull();
  expect(merged(undefined, changes('e.7', 'e.9'))).toBeNull();
  const reopened = state('other.1');
  expect(merged(now, reopened)).toBe(reopened);
  expect(merged(undefined, now)).toBe(now);
});
