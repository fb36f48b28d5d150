import type { Change, PictureDocument, Repair, Row } from '../contract/document.ts';
import { alike, applyOperations, invert, operationsOf, sent } from './operations.ts';

const fault = (id: string, number: number) =>
  ({ id, number, kind: 'speck', shapes: [], margin: 1, feather: 0, state: 'open' }) as never;
const stroke = (n: number) => ({
  points: Array.from({ length: 150 }, (_, i) => [n + i, i, 1]),
  size: 20,
  hardness: 0.7,
  flow: 1,
  opacity: 1,
  spacing: 0.1,
  pressure: 'none',
});
const repair = (strokes: unknown[], set: object = {}) =>
  ({
    id: 'repair',
    layerId: 'layer',
    order: 1,
    faultIds: [],
    tries: [{ id: 'try', spec: { method: 'copy', strokes, donor: { at: [1, 2] } } }],
    chosen: 'try',
    strength: 1,
    visible: true,
    ...set,
  }) as unknown as Repair;
const empty: PictureDocument = { faults: [], layers: [], repairs: [], steps: [] };
const change = (before: Row | null, after: Row | null, kind: Change['kind'] = 'repair'): Change => ({
  kind,
  id: (before ?? after)!.id,
  before,
  after,
});
/** The same as JSON keeps it. */
const stored = <T>(v: T) => JSON.parse(JSON.stringify(v)) as T;

test('a stroke added to two thousand costs what the stroke costs', () => {
  const strokes = Array.from({ length: 2000 }, (_, n) => stroke(n));
  const operations = operationsOf([change(repair(strokes), repair([...strokes, stroke(7)]))]);
  expect(operations).toEqual([
    {
      kind: 'repair',
      id: 'repair',
      op: 'splice',
      path: ['tries', 0, 'spec', 'strokes'],
      at: 2000,
      removed: [],
      added: [stroke(7)],
    },
  ]);
  expect(JSON.stringify(operations).length).toBeLessThan(1.1 * JSON.stringify(stroke(7)).length + 200);
});

test('every change comes out as its after, goes back to its before, and leaves other rows as they are', () => {
  const [a, b, c] = [stroke(1), stroke(2), stroke(3)];
  const cases: Array<[Row | null, Row | null]> = [
    [null, repair([a])],
    [repair([a, b]), null],
    [repair([a, b, c]), repair([a, c])],
    [repair([a]), repair([c, b, a])],
    [repair([a]), repair([a], { strength: 0.4, visible: false })],
    [repair([a]), repair([a], { reveal: [{ op: 'hide' }] })],
    [repair([a], { reveal: [{ op: 'hide' }, { op: 'show' }] }), repair([a], { reveal: undefined })],
    [repair([a]), repair([a], { tries: [{ id: 'other', spec: { method: 'shade', stops: 1 } }] })],
    [repair([a]), repair([a], { tries: [...repair([a]).tries, { id: 'more', spec: { method: 'fill', seed: 3 } }] })],
  ];
  for (const [before, after] of cases) {
    const other = repair([b], { id: 'other', order: 2 });
    const start = { ...empty, repairs: [...(before ? [before as Repair] : []), other] };
    const operations = operationsOf([change(before, after)]);
    const done = applyOperations(start, operations);
    expect(stored(done.repairs.find((r) => r.id === 'repair') ?? null)).toEqual(stored(after));
    expect(done.repairs.find((r) => r.id === 'other')).toBe(other);
    expect(stored(applyOperations(done, invert(operations)))).toEqual(stored(start));
    // What is sent over does the same, without what it replaced.
    expect(stored(applyOperations(start, stored(sent(operations))))).toEqual(stored(done));
  }
});

test('the order of keys in a spec is kept, since it names renderings', () => {
  const before = repair([stroke(1)]);
  const after = repair([stroke(1)], {
    tries: [{ id: 'try', spec: { donor: { at: [1, 2] }, strokes: [stroke(1)], method: 'blend' } }],
  });
  const operations = operationsOf([change(before, after)]);
  const text = (d: PictureDocument) => JSON.stringify(d.repairs[0].tries);
  const done = applyOperations({ ...empty, repairs: [before] }, operations);
  expect(text(done)).toBe(JSON.stringify(after.tries));
  expect(text(applyOperations(done, invert(operations)))).toBe(JSON.stringify(before.tries));
});

test('rows stand in their order whatever order they came in', () => {
  const done = applyOperations(empty, operationsOf([3, 1, 2].map((n) => change(null, fault(`f${n}`, n), 'fault'))));
  expect(done.faults.map((f) => f.number)).toEqual([1, 2, 3]);
  expect(done.layers).toBe(empty.layers);
});

test('nothing changed is no operation; a change of a missing row is an error that names it', () => {
  expect(operationsOf([change(repair([stroke(1)]), repair([stroke(1)]))])).toEqual([]);
  expect(() =>
    applyOperations(empty, [{ kind: 'repair', id: 'gone', op: 'set', path: ['strength'], after: 1 }]),
  ).toThrow('There is no repair gone');
  expect([alike({ a: 1, b: undefined }, { a: 1 }), alike([1], [1, 2]), alike({ a: [1] }, { a: [2] })]).toEqual([
    true,
    false,
    false,
  ]);
});
