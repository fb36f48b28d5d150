import type { SurveyFind } from '../../contract/survey.ts';
import { cellFor, groupsOf, nameOf, seenOf, shownOf, spansOf, seenWords, treatWords } from './groups.ts';

const find = (id: string, set: Partial<SurveyFind> = {}): SurveyFind => ({
  id,
  finder: 'specks',
  kind: 'speck',
  score: 0.9,
  shapes: [],
  box: { x: 0, y: 0, width: 10, height: 10 },
  width: 10,
  length: 10,
  contrast: 40,
  difference: 20,
  rejected: false,
  ...set,
});

test('groups stand in the order in which damage is treated, whatever order finds come in', () => {
  const kinds = ['gap', 'object', 'speck', 'strand', 'tear', 'crease', 'hair', 'speck'] as const;
  const groups = groupsOf(kinds.map((kind, n) => find(`f${n}`, { kind })));
  expect(groups.map((g) => g.kind)).toEqual(['tear', 'speck', 'hair', 'crease', 'strand', 'object', 'gap']);
  expect(groups.find((g) => g.kind === 'speck')!.all).toHaveLength(2);
  expect([nameOf('object'), nameOf('strand')]).toEqual(['Stand-outs', 'Wires']);
});

test('sensitivity shows what is sure enough, and always what is in the worklist', () => {
  const all = [0.95, 0.6, 0.5, 0.3].map((score, n) => find(`f${n}`, { score }));
  const [group] = groupsOf(all);
  const ids = (sensitivity: number, taken = {}) => shownOf(group, sensitivity, taken).map((f) => f.id);
  expect(ids(0.5)).toEqual(['f0', 'f1', 'f2']);
  expect(ids(0.1)).toEqual(['f0']);
  expect(ids(0.8)).toHaveLength(4);
  expect(ids(0.1, { f3: 'fault' })).toEqual(['f0', 'f3']);
});

test('thumbnails of a group are equally large unless sizes differ too much', () => {
  const sized = (...sizes: number[]) =>
    sizes.map((s, n) => find(`f${n}`, { box: { x: 0, y: 0, width: s, height: s / 2 } }));
  const specks = sized(4, 6, 9, 30);
  expect(new Set(specks.map(spansOf(specks))).size).toBe(1);
  const things = sized(40, 60, 700, 900);
  const span = spansOf(things);
  expect(things.map(span)).toEqual([72, 90, 1050, 1200]);
});

test('what nobody sees at delivery is said so; nearer it is seen', () => {
  const speck = find('f1', { width: 1, length: 1, difference: 4 });
  const at = (distanceMm: number) => seenOf(speck, 3000, { longSideMm: 300, distanceMm }).times;
  expect(at(2000)).toBeLessThan(1);
  expect(at(150)).toBeGreaterThan(1);
});

test('one, many and none are named as people say them', () => {
  expect([0, 1, 2, 1200].map((n) => treatWords(n, 'specks'))).toEqual([
    'No specks left to treat',
    'Treat this one',
    'Treat all 2 specks',
    'Treat all 1\u202f200 specks',
  ]);
  expect([seenWords(1, 1), seenWords(5, 5), seenWords(3, 5), seenWords(0, 1)]).toEqual([
    'seen at delivery',
    'all 5 seen at delivery',
    '3 of 5 seen at delivery',
    '0 of 1 seen at delivery',
  ]);
});

test('cells are as large as lets all finds be seen at once, within bounds', () => {
  // Four in a row of 600 px and as many rows as that takes.
  expect(cellFor(1, 600, 500, 8)).toBe(280);
  expect(cellFor(400, 600, 500, 8)).toBe(92);
  for (const finds of [2, 5, 9, 14]) {
    const cell = cellFor(finds, 600, 500, 8);
    const rows = (side: number) => Math.ceil(finds / Math.floor(608 / (side + 8)));
    expect(rows(cell) * (cell + 8) - 8).toBeLessThanOrEqual(500);
    if (cell < 280) expect(rows(cell + 4) * (cell + 12) - 8).toBeGreaterThan(500);
  }
});
