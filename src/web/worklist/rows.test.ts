import type { Fault } from '../../contract/document.ts';
import { choicesOf, partedRows } from './rows.ts';

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
