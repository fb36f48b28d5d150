import type { RepairStatus } from '../../contract/api.ts';
import type { Layer, PictureDocument, Repair } from '../../contract/document.ts';
import { Cache } from './cache.ts';
import { Changes } from './changes.ts';
import { RenderIndex, stackOf, difference, joinedBoxes } from './stack.ts';
import { Turns } from './turns.ts';

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

describe('turns', () => {
  test('one thing at a time for a picture, in the order asked for; pictures do not wait for one another', async () => {
    const turns = new Turns();
    const said: string[] = [];
    const work = (id: string, name: string, ms: number) =>
      turns.run(id, async () => {
        said.push(`${name} begins`);
        await pause(ms);
        said.push(`${name} ends`);
      });
    await Promise.all([work('p', 'a', 30), work('p', 'b', 1), work('q', 'c', 1)]);
    expect(said.filter((s) => !s.startsWith('c'))).toEqual(['a begins', 'a ends', 'b begins', 'b ends']);
    expect(said.indexOf('c ends')).toBeLessThan(said.indexOf('a ends'));
  });

  test('what fails is told to whoever asked, and the next one begins', async () => {
    const turns = new Turns();
    const failed = turns.run('p', () => Promise.reject(new Error('no')));
    const next = turns.run('p', async () => 5);
    await expect(failed).rejects.toThrow('no');
    expect(await next).toBe(5);
  });
});

describe('the cache of open pictures', () => {
  const made = (mostBytes: number) => {
    const opened: string[] = [];
    const cache = new Cache(async (id: string) => {
      opened.push(id);
      await pause(2);
      return { id, bytes: () => 10 };
    }, mostBytes);
    return { cache, opened };
  };

  test('never opens a second time what somebody is at work with, however many others are opened meanwhile', async () => {
    const { cache, opened } = made(25);
    let end = () => undefined as void;
    const at = cache.use('a', (a) => new Promise<typeof a>((resolve) => (end = () => resolve(a))));
    for (const id of ['b', 'c', 'd', 'e', 'f', 'g', 'h', 'i']) await cache.use(id, () => 0);
    const again = await cache.use('a', (a) => a);
    end();
    expect(await at).toBe(again);
    expect(opened.filter((id) => id === 'a')).toEqual(['a']);
  });

  test('holds as many as there is room for, by bytes, those used last', async () => {
    const { cache, opened } = made(30);
    for (const id of ['a', 'b', 'c', 'a', 'd']) await cache.use(id, () => 0);
    expect(
      cache
        .opened()
        .map((p) => p.id)
        .sort(),
    ).toEqual(['a', 'c', 'd']);
    await cache.use('b', () => 0);
    expect(opened).toEqual(['a', 'b', 'c', 'd', 'b']);
  });

  test('asks anew for what could not be opened', async () => {
    let times = 0;
    const cache = new Cache(async () => {
      if (++times === 1) throw new Error('away');
      return { bytes: () => 1 };
    }, 10);
    await expect(cache.use('a', () => 0)).rejects.toThrow('away');
    expect(await cache.use('a', () => 7)).toBe(7);
  });
});

describe('changes of an open picture', () => {
  const status = (id: string, state: RepairStatus['state'], tries = {}): RepairStatus => ({ id, state, tries });
  const document = { faults: [], layers: [], repairs: [{ id: 'r' }, { id: 's' }] } as unknown as PictureDocument;

  test('versions of tiles never go back, after however many changes; each tile has its own', () => {
    const changes = new Changes('e', 40_000, 20_000);
    const newest = new Map<number, number>();
    for (let n = 0; n < 500; n++) {
      const [column, row] = [n % 70, Math.floor(n / 70)];
      changes.painted([{ x: column * 512 + 100, y: row * 512 + 100, width: 9, height: 9 }]);
      newest.set(row * 79 + column, n + 1);
      const now = new Map(changes.pixels().tiles);
      for (const [tile, version] of newest) expect(now.get(tile)).toBe(version);
    }
    expect(changes.pixels().tiles).toHaveLength(500);
    expect(changes.pixels().version).toBe(500);
  });

  test('a change at the edge of a tile is one of its neighbour too; none lies outside the picture', () => {
    const changes = new Changes('e', 1000, 700);
    changes.painted([{ x: 500, y: 10, width: 20, height: 5 }]);
    expect(changes.pixels().tiles.map(([n]) => n)).toEqual([0, 1]);
    changes.painted([{ x: -50, y: -50, width: 5000, height: 5000 }]);
    expect(changes.pixels().tiles.map(([n]) => n)).toEqual([0, 1, 2, 3]);
  });

  test('a window gets what it has not seen, and nothing twice', () => {
    const changes = new Changes('e', 1000, 700);
    const start = changes.mark;
    changes.edited([{ kind: 'repair', id: 'r', op: 'set', path: ['strength'], before: 1, after: 0.5 }]);
    changes.stand([status('r', 'working'), status('s', 'shown')]);
    const middle = changes.mark;
    changes.painted([{ x: 0, y: 0, width: 5, height: 5 }]);
    const all = changes.since(start, document)!;
    expect(all.operations).toEqual([{ kind: 'repair', id: 'r', op: 'set', path: ['strength'], after: 0.5 }]);
    expect(all.statuses.map((s) => s.id)).toEqual(['r', 's']);
    const rest = changes.since(middle, document)!;
    expect([rest.operations, rest.statuses, rest.pixels.tiles]).toEqual([[], [], [[0, 1]]]);
    expect(changes.since(changes.mark, document)).toMatchObject({ operations: [], statuses: [], states: {} });
    expect(changes.since('other.1', document)).toBeNull();
    expect(changes.since('e.99', document)).toBeNull();
    expect(changes.since('nonsense', document)).toBeNull();
  });

  test('where many states change at once only their places are sent', () => {
    const changes = new Changes('e', 1000, 700);
    const tries = {};
    changes.stand([status('r', 'shown', tries), status('s', 'shown', tries)]);
    const { mark } = changes;
    changes.stand([status('r', 'stale', tries), status('s', 'stale', tries)]);
    expect(changes.since(mark, document)).toMatchObject({ statuses: [], states: { stale: [0, 1] } });
  });

  test('one that missed too much reads everything again', () => {
    const changes = new Changes('e', 1000, 700);
    const { mark } = changes;
    for (let n = 0; n < 401; n++)
      changes.edited([{ kind: 'repair', id: 'r', op: 'set', path: ['strength'], before: 1, after: 0.5 }]);
    expect(changes.since(mark, document)).toBeNull();
  });
});

describe('the stack', () => {
  const SIZE = { width: 6000, height: 4000 };
  const layer: Layer = { id: 'layer', name: 'Dust', order: 1, opacity: 1, visible: true };
  const repair = (n: number, x: number, y: number): Repair => ({
    id: `r${n}`,
    layerId: 'layer',
    order: n,
    faultIds: [],
    tries: [{ id: `t${n}`, spec: { method: 'given', index: n, box: { x, y, width: 30, height: 30 } } }],
    chosen: `t${n}`,
    strength: 1,
    visible: true,
  });
  const row = (key: string, n: number, x: number, y: number) => ({
    pictureId: 'p',
    key,
    tryId: `t${n}`,
    patch: 'b',
    box: { x, y, width: 30, height: 30 },
    reason: '',
  });
  const many = (count: number) => {
    const places = Array.from({ length: count }, (_, n): [number, number] => [(n * 97) % 5900, (n * 61) % 3900]);
    const repairs = places.map(([x, y], n) => repair(n, x, y));
    return { document: { faults: [], layers: [layer], repairs, steps: [] }, places };
  };

  test('of two thousand repairs takes time in proportion to them, and entries that did not change stay the same', () => {
    const time = (work: () => unknown) => {
      const t = performance.now();
      work();
      return performance.now() - t;
    };
    const worked = (count: number) => {
      const { document, places } = many(count);
      const index = new RenderIndex(places.map(([x, y], n) => row(`k${n}`, n, x, y)));
      return () => time(() => stackOf(document, 'o', SIZE, index));
    };
    // In turns, so that a busy moment falls on both.
    const [few, lot] = [worked(500), worked(4000)];
    const times = Array.from({ length: 12 }, () => [few(), lot()]);
    const best = (k: 0 | 1) => Math.min(...times.map((t) => t[k]));
    expect(best(1) / best(0)).toBeLessThan(24);
    const { document, places } = many(300);
    const index = new RenderIndex(places.map(([x, y], n) => row(`k${n}`, n, x, y)));
    const first = stackOf(document, 'o', SIZE, index);
    const known = new Map(first.map((e) => [e.repair.id, e]));
    const before = { layers: document.layers, entries: known };
    const changed = {
      ...document,
      repairs: document.repairs.map((r) => (r.id === 'r7' ? { ...r, strength: 0.5 } : r)),
    };
    const second = stackOf(changed, 'o', SIZE, index, before);
    expect(second.filter((e) => known.get(e.repair.id) !== e).map((e) => e.repair.id)).toContain('r7');
    expect(second.filter((e) => known.get(e.repair.id) === e).length).toBeGreaterThan(280);
  });

  test('worked out from an earlier answer it is the same as worked out anew, whatever changed', () => {
    let state = 7;
    const random = () => (state = (state * 16807) % 2147483647) / 2147483647;
    const { document: start, places } = many(60);
    const fills = start.repairs.map((r, n): Repair => {
      const [x, y] = places[n];
      const strokes = [
        { points: [[x, y, 1]], size: 300, hardness: 1, flow: 1, opacity: 1, spacing: 0.2, pressure: 'none' },
      ];
      const spec = { method: 'shade', strokes, effect: 'tone', stops: 1, range: 'all', seed: n };
      return { ...r, tries: [{ id: `t${n}`, spec }] } as Repair;
    });
    const top = { ...layer, id: 'top', name: 'Top', order: 2 };
    let document: PictureDocument = { faults: [], layers: [layer, top], repairs: fills, steps: [] };
    const index = new RenderIndex(places.map(([x, y], n) => row(`k${n}`, n, x, y)));
    let entries = stackOf(document, 'o', SIZE, index);
    for (let n = 0; n < 300; n++) {
      const last = { layers: document.layers, entries: new Map(entries.map((e) => [e.repair.id, e])) };
      const at = Math.floor(random() * document.repairs.length);
      const change = (set: Partial<Repair>) =>
        (document = { ...document, repairs: document.repairs.map((r, i) => (i === at ? { ...r, ...set } : r)) });
      const what = Math.floor(random() * 7);
      if (what === 0) change({ strength: random() });
      if (what === 1) change({ visible: random() < 0.5 });
      if (what === 2) change({ layerId: random() < 0.5 ? 'top' : 'layer' });
      if (what === 3) document = { ...document, layers: document.layers.slice().reverse() };
      if (what === 4) document = { ...document, layers: document.layers.map((l) => ({ ...l, opacity: random() })) };
      if (what === 5)
        document = {
          ...document,
          repairs: document.repairs.filter((_, i) => i !== at || document.repairs.length < 20),
        };
      if (what === 6) {
        const { key, repair: own } = entries[Math.floor(random() * entries.length)];
        const number = Number(own.id.slice(1));
        index.add(row(key, number, places[number][0], places[number][1]));
      }
      const plainly = stackOf(document, 'o', SIZE, index);
      entries = stackOf(document, 'o', SIZE, index, last);
      expect(entries.map((e) => [e.repair.id, e.key, e.strength, e.current, e.shown?.key, e.shown?.strength])).toEqual(
        plainly.map((e) => [e.repair.id, e.key, e.strength, e.current, e.shown?.key, e.shown?.strength]),
      );
    }
  });

  test('a rendering that is dropped from the index is shown no longer, an alias stays', () => {
    const { document, places } = many(2);
    const index = new RenderIndex(places.map(([x, y], n) => row(`k${n}`, n, x, y)));
    index.alias('t1', index.byKey.get('k0')!);
    index.remove(['k1']);
    const [a, b] = stackOf(document, 'o', SIZE, index);
    expect([a.shown?.key, b.shown?.key]).toEqual(['k0', 'k0']);
    index.remove(['k0']);
    expect(stackOf(document, 'o', SIZE, index).map((e) => e.shown?.key)).toEqual([undefined, 'k0']);
  });

  test('boxes that differ are found, and joined where they overlap', () => {
    const { document, places } = many(3);
    const index = new RenderIndex(places.map(([x, y], n) => row(`k${n}`, n, x, y)));
    const placed = stackOf(document, 'o', SIZE, index).map((e) => e.shown!);
    const weaker = placed.map((p, n) => (n === 1 ? { ...p, strength: 0.2 } : p));
    expect(difference(placed, placed)).toEqual([]);
    expect(difference(placed, weaker)).toEqual([placed[1].box, placed[1].box]);
    expect(difference([placed[0], placed[1]], [placed[1], placed[0]])).toHaveLength(2);
    const box = (x: number) => ({ x, y: 0, width: 10, height: 10 });
    expect(joinedBoxes([box(0), box(16), box(8), box(40)])).toEqual([{ x: 0, y: 0, width: 26, height: 10 }, box(40)]);
  });
});
