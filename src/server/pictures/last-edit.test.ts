import { LastEdit } from './last-edit.ts';

test('an edit that another window made is known once it was seen', () => {
  const edit = new LastEdit();
  expect(edit.isKnownTo('a', 'e.1', 'e')).toBe(true);
  edit.note('a', 'e.5');
  expect(edit.isKnownTo('a', 'e.1', 'e')).toBe(true);
  expect(edit.isKnownTo('b', 'e.4', 'e')).toBe(false);
  expect(edit.isKnownTo('b', 'e.5', 'e')).toBe(true);
  expect(edit.isKnownTo('b', 'e.7', 'e')).toBe(true);
});

test('on another canvas marks begin anew: those of the present one have seen it, older ones have not', () => {
  const edit = new LastEdit();
  edit.note('a', 'e.5');
  expect(edit.isKnownTo('b', 'f.1', 'f')).toBe(true);
  expect(edit.isKnownTo('b', 'd.9', 'f')).toBe(false);
});
