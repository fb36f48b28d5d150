import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Fault, PictureDocument, Try } from '../../contract/document.ts';
import { newJobSchema, type Facts } from '../../contract/studio.ts';
import { workOut } from '../services/edits.ts';
import { workOutFill } from '../services/fills.ts';
import { difference, RenderIndex, stackOf } from '../services/stack.ts';
import { Store } from './store.ts';

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

function studio() {
  const folder = mkdtempSync(join(tmpdir(), 'tersum-store-'));
  const store = new Store(folder, 'src/server/store/migrations');
  const file = join(folder, 'a.bin');
  writeFileSync(file, Buffer.alloc(9_000_000, 7));
  const jobId = store.createJob(JOB);
  const id = store.importPicture(jobId, 'a.png', FACTS, file);
  const edit = (e: Parameters<typeof workOut>[1]) => {
    const { label, changes } = workOut(store.document(id), e, SIZE);
    store.applyEdit(id, label, changes);
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
    const out = workOutFill(store.document(id), request, SIZE, 'creative');
    store.applyEdit(id, out.label, out.changes);
    return out;
  };
  return { folder, store, jobId, id, edit, mark, fill };
}

test('an original comes back byte for byte, in parts, and is kept once', () => {
  const { store, jobId, id, folder } = studio();
  const again = store.importPicture(jobId, 'b.png', FACTS, join(folder, 'a.bin'));
  expect(store.picture(id)!.original).toBe(store.picture(again)!.original);
  expect(Buffer.from(store.readBlob(store.picture(id)!.original)).equals(Buffer.alloc(9_000_000, 7))).toBe(true);
  store.removePicture(again);
  expect(store.verify()).toEqual([]);
  store.removeJob(jobId);
  expect(() => store.readBlob('x')).toThrow();
  store.close();
});

test('undo and redo go back and forth through everything, also after reopening', () => {
  const { store, folder, id, edit, mark, fill } = studio();
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

test('a failed edit changes nothing', () => {
  const { store, id, mark } = studio();
  mark(50, 50);
  const before = store.document(id);
  const bad = [{ kind: 'fault' as const, id: before.faults[0].id, before: before.faults[0], after: null }];
  const record = {
    pictureId: 'nobody',
    key: 'k',
    tryId: 't',
    patch: new Uint8Array(3),
    box: { x: 0, y: 0, width: 1, height: 1 },
    reason: '',
  };
  expect(() => store.applyEdit(id, 'x', bad, [record])).toThrow();
  expect(store.document(id)).toEqual(before);
  store.close();
});

test('a fill makes three different tries; three more keep the first three', () => {
  const { store, id, mark, fill } = studio();
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

test('a fill never samples another open fault, and follows its own when that is redrawn', () => {
  const { store, id, edit, mark, fill } = studio();
  const a = mark(200, 200);
  mark(260, 200);
  fill([a]);
  const spec = () => fillOf(store.document(id).repairs[0].tries[0]);
  expect(spec().avoid).toHaveLength(1);
  edit({ type: 'changeFault', id: a.id, set: { margin: 9 } });
  expect(spec().margin).toBe(9);
  store.close();
});

test('what lies beneath decides which repairs are stale: strength above does not, strength below does', () => {
  const { store, id, edit, mark, fill } = studio();
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
  test('notes a change of what may be changed, and only that', () => {
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
