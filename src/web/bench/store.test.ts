import { createBenchStore, kindFor, toolOf } from './store.ts';

const kept = new Map<string, string>();
beforeAll(() => {
  (globalThis as { localStorage?: unknown }).localStorage = {
    getItem: (k: string) => kept.get(k) ?? null,
    setItem: (k: string, v: string) => kept.set(k, v),
  };
});
afterAll(() => delete (globalThis as { localStorage?: unknown }).localStorage);

test('choosing a fault forgets what was painted and shown for the one before, and keeps the verb', () => {
  const store = createBenchStore();
  const { pickVerb, addArea, chooseRepair, setInto, choose } = store.getState();
  choose(['a']);
  pickVerb('donor');
  addArea('donor', { op: 'add', kind: 'box', x: 0, y: 0, width: 9, height: 9 });
  chooseRepair('r');
  setInto('take');
  choose(['b']);
  expect(store.getState()).toMatchObject({ selected: ['b'], mode: 'donor', repairId: null, into: 'new' });
  expect(store.getState().areas.donor).toEqual([]);
});

test('a shape takes up marking from looking about, but stays with an area that is painted', () => {
  const store = createBenchStore();
  store.getState().pickShape('box');
  expect(store.getState()).toMatchObject({ mode: 'mark', shape: 'box' });
  store.getState().pickVerb('barred');
  store.getState().pickShape('outline');
  expect(store.getState()).toMatchObject({ mode: 'barred', shape: 'outline' });
});

test('sizes go from one px to six hundred and never stand still', () => {
  const store = createBenchStore();
  store.getState().setSize(1);
  const sizes = [1];
  while (sizes.at(-1)! < 600) {
    store.getState().resize(true);
    expect(store.getState().size).toBeGreaterThan(sizes.at(-1)!);
    sizes.push(store.getState().size);
  }
  while (store.getState().size > 1) {
    const before = store.getState().size;
    store.getState().resize(false);
    expect(store.getState().size).toBeLessThan(before);
  }
});

test('a comparison pressed once more shows the repaired picture; surround and order outlive the bench', () => {
  const store = createBenchStore();
  store.getState().compareBy('divider');
  expect(store.getState().compare).toBe('divider');
  store.getState().compareBy('divider');
  expect(store.getState().compare).toBe('repaired');
  store.getState().setSurround('dark');
  store.getState().setOrder('number');
  expect(createBenchStore().getState()).toMatchObject({ surround: 'dark', order: 'number' });
});

test('what is drawn with follows the verb; the kind of a mark follows its shape', () => {
  expect(toolOf('look', 'box')).toBeNull();
  expect(toolOf('copy', 'box')).toBeNull();
  expect(toolOf('trace', 'box')).toBe('strand');
  expect(toolOf('mark', 'strand')).toBe('strand');
  expect(toolOf('donor', 'strand')).toBe('brush');
  expect(toolOf('edges', 'box')).toBe('strand');
  const brush = (size: number, points: number) =>
    kindFor({ op: 'add', kind: 'brush', points: Array.from({ length: points }, (_, n) => [n, n]), size });
  expect([brush(20, 1), brush(20, 9), brush(200, 1)]).toEqual(['speck', 'object', 'object']);
  expect(kindFor({ op: 'add', kind: 'strand', points: [[0, 0]], size: 3 })).toBe('strand');
});
