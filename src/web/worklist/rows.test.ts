import type { Fault } from '../../contract/document.ts';
import { looksAgain, choicesOf, partedRows, shownRows, standings } from './rows.ts';

const fault = (id: string, kind: Fault['kind'], state: Fault['state']) => ({ id, kind, state }) as Fault;
const faults = [
  fault('a', 'object', 'treated'),
  fault('b', 'speck', 'open'),
  fault('c', 'speck', 'left'),
  fault('d', 'object', 'open'),
];
const ids = (list: Fault[]) => list.map((f) => f.id).join('');

test('what is done with stands apart, each part in the order of the list', () => {
  const { open, done } = partedRows(faults, 'all');
  expect([ids(open), ids(done)]).toEqual(['bd', 'ac']);
});

test('rows of one kind, or of one state', () => {
  expect(ids(partedRows(faults, 'speck').open)).toBe('b');
  expect(ids(partedRows(faults, 'speck').done)).toBe('c');
  expect(ids(partedRows(faults, 'treated').done)).toBe('a');
  expect(partedRows(faults, 'mesh')).toEqual({ open: [], done: [] });
});

test('only what there is can be chosen, in the order of menus', () => {
  expect(choicesOf(faults)).toEqual({ kinds: ['speck', 'object'], states: ['open', 'treated', 'left'] });
});

test('a filter of which nothing is left shows all', () => {
  const there = choicesOf(faults);
  expect(shownRows('speck', there)).toBe('speck');
  expect(shownRows('left', there)).toBe('left');
  expect(shownRows('mesh', there)).toBe('all');
  expect(shownRows('accepted', there)).toBe('all');
});

test('a fault is only treated once its repairs are rendered; one that failed says why', () => {
  const state = {
    document: {
      repairs: [
        { id: 'r1', faultIds: ['a'] },
        { id: 'r2', faultIds: ['a'] },
        { id: 'r3', faultIds: ['b'] },
        { id: 'r4', faultIds: ['c'] },
        { id: 'r5', faultIds: ['d'] },
      ],
    },
    statuses: [
      { id: 'r1', state: 'failed', message: 'Too little around it is known.' },
      { id: 'r2', state: 'working' },
      { id: 'r3', state: 'shown' },
      { id: 'r4', state: 'stale' },
    ],
  } as unknown as Parameters<typeof standings>[0];
  expect([...standings(state)]).toEqual([
    ['a', { word: 'failed', message: 'Too little around it is known.' }],
    ['c', { word: 'will be updated' }],
    ['d', { word: 'being made' }],
  ]);
});

/** A seam that differs by so much. */
const sign = (difference: number) => ({
  kind: 'seam',
  box: { x: 0, y: 0, width: 40, height: 8 },
  figure: 2,
  unit: 'times',
  difference,
  across: 3,
  along: 60,
  remedy: 'other-try',
});

test('a treated fault is to be looked at again where checks object to what would be seen, or it was not sure', () => {
  const state = {
    picture: { facts: { width: 3000, height: 2000 } },
    document: {
      steps: [],
      repairs: [
        { id: 'r1', chosen: 't1', faultIds: ['f1'] },
        { id: 'r2', chosen: 't2', faultIds: ['f2'] },
        { id: 'r3', chosen: 't3', faultIds: ['f3'] },
      ],
    },
    statuses: [
      { id: 'r1', tries: { t1: { reason: 'Predicted.', signs: [sign(20)] } } },
      // What nobody would notice as it is delivered is not told.
      { id: 'r2', tries: { t2: { reason: 'Predicted.', signs: [sign(0.6)] } } },
      { id: 'r3', tries: { t3: { reason: 'Not sure what lies over the picture here.' } } },
    ],
  } as unknown as Parameters<typeof looksAgain>[0];
  expect([...looksAgain(state, { longSideMm: 300, distanceMm: 450 })]).toEqual([
    ['f1', 'Look again: hard seam.'],
    ['f3', 'Not sure what lies over the picture here.'],
  ]);
});
