import { copyFileSync, mkdtempSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { sql } from 'drizzle-orm';
import type { Fault, PictureDocument, Try } from '../../contract/document.ts';
import { newJobSchema, type Facts, type JoinedFrom } from '../../contract/studio.ts';
import { applyOperations, operationsOf } from '../../document/operations.ts';
import { planEdit } from '../../document/edits/plan-edit.ts';
import { planFill } from '../../document/edits/fills.ts';
import { difference, RenderIndex, stackOf } from '../pictures/stack.ts';
import { Refused } from '../../contract/refused.ts';
import type { Database } from './database.ts';
import { isCurrent, openForReading } from './database.ts';
import { Store } from './store.ts';
import { backupStore, checkStoreFile } from './upkeep.ts';

const FACTS: Facts = {
  fileName: 'a.png',
  format: 'png',
  bytes: 3,
  width: 800,
  height: 600,
  channels: 3,
  depth: 8,
  mode: 'RGB',
  ppi: null,
  profile: null,
  jpegQuality: null,
  clippedDark: 0,
  clippedLight: 0,
};
function fillOf({ spec }: Try) {
  if (spec.method !== 'fill') throw new Error('No fill.');
  return spec;
}

const SIZE = { width: 800, height: 600 };
const JOB = newJobSchema.parse({ name: 'Job' });

async function studio() {
  const folder = mkdtempSync(join(tmpdir(), 'tersum-store-'));
  const store = new Store(folder, 'src/server/store/migrations');
  const file = join(folder, 'a.bin');
  writeFileSync(file, Buffer.alloc(9_000_000, 7));
  writeFileSync(join(folder, 'other.bin'), Buffer.alloc(3_000_000, 5));
  const jobId = store.createJob(JOB);
  const id = await store.importPicture(jobId, 'a.png', FACTS, file);
  const edit = (e: Parameters<typeof planEdit>[1]) => {
    const { label, changes } = planEdit(store.document(id), e, SIZE);
    store.applyEdit(id, label, operationsOf(changes));
  };
  const mark = (x: number, y: number, size = 30) => {
    edit({ type: 'addFault', kind: 'object', shapes: [{ op: 'add', kind: 'brush', points: [[x, y]], size }] });
    return store.document(id).faults.at(-1)!;
  };
  const fill = (faults: Fault[], repairId: string | null = null) => {
    const request = {
      faultIds: faults.map((f) => f.id),
      layerId: null,
      repairId,
      donorArea: [],
      barred: [],
      settings: {},
    };
    const out = planFill(store.document(id), request, SIZE, 'creative');
    store.applyEdit(id, out.label, operationsOf(out.changes));
    return out;
  };
  return { folder, store, jobId, id, edit, mark, fill };
}

test('an original comes back byte for byte, in parts, and is kept once', async () => {
  const { store, jobId, id, folder } = await studio();
  const again = await store.importPicture(jobId, 'b.png', FACTS, join(folder, 'a.bin'));
  expect(store.picture(id)!.original).toBe(store.picture(again)!.original);
  expect(Buffer.from(store.readBlob(store.picture(id)!.original)).equals(Buffer.alloc(9_000_000, 7))).toBe(true);
  await store.removePicture(again);
  expect(store.check()).toMatchObject({ pictures: 1, blobs: 1, bytes: 9_000_000, problems: [] });
  const { original } = store.picture(id)!;
  await store.removeJob(jobId);
  expect(() => store.readBlob(original)).toThrow('These pixels are no longer kept.');
  expect(store.check()).toMatchObject({ jobs: 0, pictures: 0, blobs: 0, problems: [] });
  store.close();
});

test('files that a picture was joined from stay as long as it does, whatever becomes of their own pictures', async () => {
  const { store, jobId, id, folder } = await studio();
  writeFileSync(join(folder, 'joined.bin'), Buffer.alloc(5000, 3));
  const { original: hash } = store.picture(id)!;
  const from = { frames: [{ name: 'a.png', hash }], projection: 'auto', software: 'x', account: {} };
  const made = await store.importPicture(jobId, 'j.png', FACTS, join(folder, 'joined.bin'), [], from as JoinedFrom);
  expect(store.picture(made)!.joined).toEqual(from);
  await store.removePicture(id);
  expect(store.readBlob(hash)).toHaveLength(9_000_000);
  expect(store.check()).toMatchObject({ pictures: 1, blobs: 2, problems: [] });
  await store.removePicture(made);
  expect(() => store.readBlob(hash)).toThrow('These pixels are no longer kept.');
  expect(store.check()).toMatchObject({ pictures: 0, blobs: 0, problems: [] });
  store.close();
});

test('undo and redo go back and forth through everything, also after reopening', async () => {
  const { store, folder, id, edit, mark, fill } = await studio();
  const states: PictureDocument[] = [store.document(id)];
  const keep = () => states.push(store.document(id));
  const a = mark(100, 100);
  keep();
  mark(300, 200);
  keep();
  fill([a]);
  keep();
  const repair = store.document(id).repairs[0];
  edit({ type: 'changeRepair', id: repair.id, set: { strength: 0.4 } });
  keep();
  edit({ type: 'removeLayer', id: repair.layerId });
  keep();
  expect(store.document(id).faults[0].state).toBe('open');
  store.close();
  const reopened = new Store(folder, 'src/server/store/migrations');
  for (let i = states.length - 2; i >= 0; i--) {
    expect(reopened.step(id, -1)).toBeTruthy();
    expect(reopened.document(id)).toEqual(states[i]);
  }
  expect(reopened.step(id, -1)).toBeNull();
  for (let i = 1; i < states.length; i++) {
    reopened.step(id, 1);
    expect(reopened.document(id)).toEqual(states[i]);
  }
  expect(reopened.steps(id)).toMatchObject({ redo: null });
  reopened.step(id, -1);
  reopened.applyEdit(id, 'another way', []);
  expect(reopened.steps(id).redo).toBeNull();
  reopened.close();
});

test('what is added to an edit is taken back and brought back with it, and only while nothing else touched the same rows', async () => {
  const { store, id, mark } = await studio();
  mark(50, 50);
  const before = store.document(id);
  const [fault] = before.faults;
  const set = (margin: number) =>
    operationsOf([{ kind: 'fault', id: fault.id, before: fault, after: { ...fault, margin } }]);
  expect(store.amendEdit(id, 1, set(fault.margin + 7))).toBe(2);
  expect(store.document(id).faults[0].margin).toBe(fault.margin + 7);
  store.step(id, -1);
  expect(store.document(id).faults).toEqual([]);
  // Taken back, it is not in force: nothing is added to it.
  expect(store.amendEdit(id, 1, set(fault.margin + 9))).toBeNull();
  store.step(id, 1);
  expect(store.document(id).faults[0].margin).toBe(fault.margin + 7);
  // Another fault is marked meanwhile, and that is undone: neither stands in the way, and undo still takes back all.
  const other = mark(150, 50);
  const now = store.document(id).faults.find((f) => f.id === fault.id)!;
  const more = operationsOf([{ kind: 'fault', id: now.id, before: now, after: { ...now, feather: now.feather + 3 } }]);
  expect(store.amendEdit(id, 1, more, [{ kind: 'fault', id: other.id }])).toBeNull();
  expect(store.amendEdit(id, 1, more)).not.toBeNull();
  store.step(id, -1);
  expect(store.document(id).faults).toEqual([{ ...now, feather: now.feather + 3 }]);
  store.step(id, -1);
  expect(store.document(id).faults).toEqual([]);
  store.step(id, 1);
  store.step(id, 1);
  expect(store.document(id).faults).toHaveLength(2);
  // What was done to it since comes after it: nothing goes in between, also not once that is undone.
  store.applyEdit(id, 'by the editor', set(fault.margin + 2));
  expect(store.amendEdit(id, 1, set(fault.margin + 9))).toBeNull();
  store.step(id, -1);
  expect(store.amendEdit(id, 1, set(fault.margin + 9))).toBeNull();
  store.close();
});

test('a failed edit changes nothing', async () => {
  const { store, id, mark } = await studio();
  mark(50, 50);
  const before = store.document(id);
  const gone = operationsOf([{ kind: 'fault', id: before.faults[0].id, before: before.faults[0], after: null }]);
  const missing = { kind: 'repair', id: 'nowhere', op: 'set', path: ['strength'], after: 0 } as const;
  expect(() => store.applyEdit(id, 'x', [...gone, missing])).toThrow('There is no repair nowhere to change.');
  expect(store.document(id)).toEqual(before);
  expect(store.steps(id).undo).toBe('Mark fault 1');
  expect(() => store.applyEdit('nobody', 'x', [])).toThrow('This picture no longer exists.');
  store.close();
});

test('a fill makes three different tries; three more keep the first three', async () => {
  const { store, id, mark, fill } = await studio();
  const fault = mark(200, 200, 60);
  const { repairId } = fill([fault]);
  const first = store.document(id).repairs[0].tries;
  expect(new Set(first.map((t) => fillOf(t).style)).size).toBe(3);
  fill([fault], repairId);
  const { tries, chosen } = store.document(id).repairs[0];
  expect(tries.slice(0, 3)).toEqual(first);
  expect(tries).toHaveLength(6);
  expect(chosen).toBe(tries[3].id);
  expect(new Set(tries.map((t) => fillOf(t).seed)).size).toBe(6);
  store.close();
});

test('a fill never samples another open fault, and follows its own when that is redrawn', async () => {
  const { store, id, edit, mark, fill } = await studio();
  const a = mark(200, 200);
  mark(260, 200);
  fill([a]);
  const spec = () => fillOf(store.document(id).repairs[0].tries[0]);
  expect(spec().avoid).toHaveLength(1);
  edit({ type: 'changeFault', id: a.id, set: { margin: 9 } });
  expect(spec().margin).toBe(9);
  store.close();
});

test('what lies beneath decides which repairs are stale: strength above does not, strength below does', async () => {
  const { store, id, edit, mark, fill } = await studio();
  fill([mark(200, 200)]);
  fill([mark(250, 200)]);
  fill([mark(700, 500, 12)]);
  const index = new RenderIndex();
  const stack = () => stackOf(store.document(id), 'original', SIZE, index);
  for (let i = 0; i < 3; i++) {
    const e = stack()[i];
    const row = {
      pictureId: id,
      key: e.key,
      tryId: e.repair.chosen,
      patch: 'p',
      box: { x: e.repair.order === 3 ? 690 : 180, y: e.repair.order === 3 ? 490 : 180, width: 60, height: 60 },
      reason: '',
    };
    index.add(row);
  }
  expect(stack().map((e) => e.current)).toEqual([true, true, true]);
  const [low, high] = store.document(id).repairs;
  edit({ type: 'changeRepair', id: high.id, set: { strength: 0.5 } });
  expect(stack().map((e) => e.current)).toEqual([true, true, true]);
  edit({ type: 'changeRepair', id: low.id, set: { strength: 0.5 } });
  expect(stack().map((e) => e.current)).toEqual([true, false, true]);
  store.step(id, -1);
  expect(stack().map((e) => e.current)).toEqual([true, true, true]);
  const shown = stack().flatMap((e) => (e.shown ? [e.shown] : []));
  expect(difference(shown, shown)).toEqual([]);
  expect(difference(shown, shown.slice(1))).toEqual([shown[0].box]);
  store.close();
});

describe('the record of a job', () => {
  test('notes a change of what may be changed, and only that', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'tersum-store-'));
    const store = new Store(folder, 'src/server/store/migrations');
    const id = store.createJob({ ...JOB, policy: 'documentary' });
    const record = () => store.listJobs()[0].record.map((r) => r.text);
    store.changeJob(id, { name: 'Another name', policy: 'documentary', donors: 'choose' });
    expect(record()).toEqual([]);
    store.changeJob(id, { policy: 'restoration' });
    store.changeJob(id, { policy: 'creative' });
    expect(record()).toEqual([
      'What may be changed: restoration → creative',
      'What may be changed: documentary → restoration',
    ]);
    expect(store.listJobs()[0].donors).toBe('choose');
  });
});

test('what is remembered of a kind is so in its job alone', async () => {
  const { store, jobId, id, folder } = await studio();
  const beside = await store.importPicture(jobId, 'b.png', FACTS, join(folder, 'other.bin'));
  const elsewhere = await store.importPicture(store.createJob(JOB), 'c.png', FACTS, join(folder, 'other.bin'));
  store.remember(id, 'stain', { strength: 0.7 });
  store.remember(id, 'stain', { margin: 3 });
  expect(store.habits(beside)).toEqual({ stain: { margin: 3, feather: 0, strength: 0.7 } });
  expect(store.habits(elsewhere)).toEqual({});
});

describe.each(['studio-0005', 'studio-0006', 'studio-0008'])('a studio of a version before: %s', (fixture) => {
  const FIXTURES = 'src/server/store/fixtures';
  interface Expected {
    picture: string;
    at: number;
    steps: Array<{ undo: string | null; redo: string | null; document: PictureDocument }>;
  }
  // A fault that is done with was called checked in them.
  const text = readFileSync(join(FIXTURES, `${fixture}.json`), 'utf8').replace(
    /"state":\s*"checked"/g,
    '"state":"accepted"',
  );
  const expected = JSON.parse(text) as Expected;
  // Steps came later.
  for (const step of expected.steps) step.document.steps ??= [];
  const opened = () => {
    const folder = mkdtempSync(join(tmpdir(), 'tersum-older-'));
    copyFileSync(join(FIXTURES, `${fixture}.db`), join(folder, 'studio.db'));
    return new Store(folder, 'src/server/store/migrations');
  };

  test('opens with every document, and undo and redo go through its journal as before', () => {
    const store = opened();
    const { picture: id, at, steps } = expected;
    expect(store.check()).toMatchObject({ jobs: 1, pictures: 1, problems: [] });
    const asThen = (n: number) => {
      expect(store.steps(id)).toEqual({ undo: steps[n].undo, redo: steps[n].redo });
      expect(store.document(id)).toEqual(steps[n].document);
    };
    asThen(at);
    for (let n = at + 1; n < steps.length; n++) {
      store.step(id, -1);
      asThen(n);
    }
    for (let n = steps.length - 2; n >= 0; n--) {
      store.step(id, 1);
      asThen(n);
    }
    store.close();
  });

  test('is said to be of an earlier version until it was opened once', () => {
    const path = join(FIXTURES, `${fixture}.db`);
    const folder = mkdtempSync(join(tmpdir(), 'tersum-current-'));
    copyFileSync(path, join(folder, 'studio.db'));
    const current = () => {
      const db = openForReading(join(folder, 'studio.db'));
      const is = isCurrent(db);
      db.$client.close();
      return is;
    };
    expect(current()).toBe(false);
    new Store(folder, 'src/server/store/migrations').close();
    expect(current()).toBe(true);
  });

  test('takes new edits beside its old ones, and finds its renderings', () => {
    const store = opened();
    const { picture: id, at, steps } = expected;
    const [repair] = store.document(id).repairs;
    const after = { ...repair, strength: 0.25 };
    store.applyEdit(id, 'Weaker', operationsOf([{ kind: 'repair', id: repair.id, before: repair, after }]));
    expect(store.document(id).repairs[0].strength).toBe(0.25);
    store.step(id, -1);
    store.step(id, -1);
    expect(store.document(id)).toEqual(steps[at + 1].document);
    const keys = new Set(store.rendersOf(id).map((r) => r.key));
    const document = store.document(id);
    const stack = stackOf(
      document,
      store.picture(id)!.original,
      { width: 160, height: 120 },
      new RenderIndex(store.rendersOf(id)),
    );
    // The later one was made without rendering anything.
    const current = stack.filter((e) => e.current);
    expect(current).toHaveLength({ 'studio-0005': 2, 'studio-0006': 0, 'studio-0008': 3 }[fixture]!);
    for (const entry of current) expect(keys).toContain(entry.key);
    store.close();
  });
});

describe('long lists', () => {
  const points = (n: number) =>
    Array.from({ length: 150 }, (_, i): [number, number, number] => [n + i * 1.37, i * 2.11 + n / 3, 0.5 + i / 400]);
  const stroke = (n: number) => ({
    points: points(n),
    size: 20,
    hardness: 0.7,
    flow: 0.7,
    opacity: 1,
    spacing: 0.12,
    pressure: 'none' as const,
  });
  const donor = { from: [1, 1], at: [9, 9], turn: 0, scale: 1, mirror: 'none', travels: true } as const;

  /** A studio with one copy along a stroke, and what adds further ones. */
  async function copied() {
    const made = await studio();
    const { store, id, edit } = made;
    edit({
      type: 'placeRepair',
      spec: { method: 'copy', strokes: [stroke(0)], donor: { ...donor, from: [1, 1], at: [9, 9] } },
      faultIds: [],
      layerId: null,
    });
    let document = store.document(id);
    const [{ id: repairId }] = document.repairs;
    const add = (n: number) => {
      const { label, changes } = planEdit(document, { type: 'addStrokes', id: repairId, strokes: [stroke(n)] }, SIZE);
      const operations = operationsOf(changes);
      store.applyEdit(id, label, operations);
      document = applyOperations(document, operations);
    };
    return { ...made, add, now: () => document };
  }

  test('two thousand strokes of 150 points take little room, and the last is written as quickly as the first', async () => {
    const { store, folder, id, add, now } = await copied();
    const size = () => ['studio.db', 'studio.db-wal'].reduce((sum, f) => sum + statSync(join(folder, f)).size, 0);
    const before = size();
    for (let n = 1; n < 1800; n++) add(n);
    // One by one with the first of another list: the machine is not as fast at all times.
    const other = await copied();
    const [first, last]: [number[], number[]] = [[], []];
    const timed = (work: () => void, list: number[]) => {
      const t = performance.now();
      work();
      list.push(performance.now() - t);
    };
    for (let n = 1; n <= 200; n++) {
      timed(() => other.add(n), first);
      timed(() => add(1799 + n), last);
    }
    expect((size() - before) / 1e6).toBeLessThan(25);
    const middle = (list: number[]) => list.slice().sort((a, b) => a - b)[list.length >> 1];
    expect(middle(last)).toBeLessThan(1.5 * middle(first));
    expect(store.document(id)).toEqual(now());
    for (const made of [store, other.store]) made.close();
  }, 120_000);

  test('come back whole after undo, redo and a piece taken out of their middle, whether they stand in rows or not', async () => {
    const { store, id, add, now } = await copied();
    const states = [now()];
    for (let n = 1; n < 40; n++) {
      add(n);
      states.push(now());
    }
    const [repair] = now().repairs;
    const { spec } = repair.tries[0];
    if (spec.method !== 'copy') throw new Error('No copy.');
    const strokes = [...spec.strokes.slice(0, 10), stroke(900), ...spec.strokes.slice(14)];
    const after = { ...repair, tries: [{ ...repair.tries[0], spec: { ...spec, strokes } }] };
    store.applyEdit(id, 'Other strokes', operationsOf([{ kind: 'repair', id: repair.id, before: repair, after }]));
    expect(store.document(id).repairs).toEqual([after]);
    for (const state of [...states].reverse()) {
      store.step(id, -1);
      expect(store.document(id)).toEqual(state);
    }
    for (const state of states.slice(1)) {
      store.step(id, 1);
      expect(store.document(id)).toEqual(state);
    }
    store.close();
  });
});

describe('requests by name', () => {
  const request = { route: 'edits', name: 'k1', digest: 'd1' };

  test('are remembered with the edit, after reopening too, for their picture and route alone', async () => {
    const { store, folder, id, jobId } = await studio();
    store.applyEdit(id, 'x', [], request, { repairId: 'r' });
    store.close();
    const reopened = new Store(folder, 'src/server/store/migrations');
    expect(reopened.answerOf(id, request)).toEqual({ answer: { repairId: 'r' } });
    expect(reopened.answerOf(id, { ...request, route: 'fills' })).toBeNull();
    const other = await reopened.importPicture(jobId, 'b.png', FACTS, join(folder, 'a.bin'));
    expect(reopened.answerOf(other, request)).toBeNull();
    expect(() => reopened.answerOf(id, { ...request, digest: 'd2' })).toThrow(/used for another request/);
    reopened.close();
  });

  test('that failed are not remembered', async () => {
    const { store, id } = await studio();
    const missing = { kind: 'repair', id: 'nowhere', op: 'set', path: ['strength'], after: 0 } as const;
    expect(() => store.applyEdit(id, 'x', [missing], request)).toThrow('There is no repair nowhere');
    expect(store.answerOf(id, request)).toBeNull();
    store.close();
  });
});

describe('a full disk', () => {
  /** Lets the database grow by so many pages and no more, as a full disk does. */
  const limit = (store: Store, more: number) => {
    const { $client } = (store as unknown as { db: Database }).db;
    const count = Object.values(($client.pragma('page_count') as Array<Record<string, number>>)[0])[0];
    $client.pragma(`max_page_count = ${count + more}`);
  };

  test('is said plainly, with figures; what was answered stays, deleting works and gives the room back', async () => {
    const { store, folder, id, jobId, mark } = await studio();
    mark(50, 50);
    const before = store.document(id);
    limit(store, 2);
    const say = /^The disk is full: \d+ MB free, \d+ MB needed\. Nothing was lost\. Delete /;
    const shapes = Array.from({ length: 300 }, (_, n) => ({
      op: 'add' as const,
      kind: 'box' as const,
      x: n * 1.37,
      y: n / 7,
      width: n / 3,
      height: 3,
    }));
    const [fault] = before.faults;
    const grow = () =>
      store.applyEdit(
        id,
        'x',
        operationsOf([{ kind: 'fault', id: fault.id, before: fault, after: { ...fault, shapes } }]),
      );
    expect(grow).toThrow(say);
    expect(grow).toThrow(Refused);
    await expect(store.importPicture(jobId, 'c.png', FACTS, join(folder, 'other.bin'))).rejects.toThrow(say);
    expect(store.document(id)).toEqual(before);
    expect(store.check()).toMatchObject({ pictures: 1, problems: [] });
    await store.removePicture(id);
    expect(statSync(join(folder, 'studio.db')).size).toBeLessThan(1_000_000);
    const again = await store.importPicture(jobId, 'd.png', FACTS, join(folder, 'a.bin'));
    expect(store.picture(again)!.name).toBe('d.png');
    store.close();
  });
});

test('what a crash left half written is dropped when the store is tidied', async () => {
  const { store, folder } = await studio();
  const { db } = store as unknown as { db: Database };
  db.run(sql`insert into blob (hash, bytes) values ('left', -1)`);
  db.run(sql`insert into blob_part (hash, part, data) values ('left', 0, zeroblob(3000000))`);
  store.close();
  const reopened = new Store(folder, 'src/server/store/migrations');
  await reopened.tidy();
  expect(reopened.check()).toMatchObject({ blobs: 1, problems: [] });
  expect((reopened as unknown as { db: Database }).db.all(sql`select 1 from blob where hash = 'left'`)).toEqual([]);
  reopened.close();
});

test('a backup of a store that is open is whole; a damaged copy is recognised', async () => {
  const { store, folder, id, mark } = await studio();
  for (let n = 0; n < 30; n++) mark(50 + n, 50);
  const target = join(folder, 'backup.db');
  expect(backupStore(join(folder, 'studio.db'), target)).toMatchObject({ pictures: 1, edits: 30, problems: [] });
  expect(() => backupStore(join(folder, 'studio.db'), target)).toThrow(/already/);
  mark(400, 400);
  const restored = mkdtempSync(join(tmpdir(), 'tersum-restored-'));
  copyFileSync(target, join(restored, 'studio.db'));
  const other = new Store(restored, 'src/server/store/migrations');
  expect(other.document(id).faults).toHaveLength(30);
  other.close();
  store.close();
  const bytes = readFileSync(target);
  bytes.fill(7, bytes.length >> 1, (bytes.length >> 1) + 40_000);
  writeFileSync(target, bytes);
  expect(checkStoreFile(target).problems.length).toBeGreaterThan(0);
  bytes.fill(0, 0, 200);
  writeFileSync(join(restored, 'studio.db'), bytes);
  expect(() => new Store(restored, 'src/server/store/migrations')).toThrow(
    /^The studio file cannot be opened: .*Put a backup in its place/,
  );
});

test('renderings of a try beyond the last few go, those in use stay', async () => {
  const { store, id } = await studio();
  const render = (n: number, inUse: string[] = []) =>
    store.saveRender(
      {
        pictureId: id,
        key: `key${n}`,
        tryId: 'try',
        patch: Buffer.from(`patch ${n}`),
        box: { x: 0, y: 0, width: 1, height: 1 },
        reason: '',
      },
      inUse,
    );
  for (let n = 0; n < 3; n++) expect(render(n).keys).toEqual([]);
  expect(render(3, ['key0']).keys).toEqual([]);
  expect(render(4, ['key0']).keys).toEqual(['key1']);
  expect(
    store
      .rendersOf(id)
      .map((r) => r.key)
      .sort(),
  ).toEqual(['key0', 'key2', 'key3', 'key4']);
  expect(store.check()).toMatchObject({ blobs: 5, problems: [] });
  expect(() =>
    store.saveRender({
      pictureId: 'gone',
      key: 'k',
      tryId: 't',
      patch: Buffer.from('x'),
      box: { x: 0, y: 0, width: 1, height: 1 },
      reason: '',
    }),
  ).toThrow('This picture no longer exists.');
  store.close();
});
