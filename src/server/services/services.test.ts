import type { Fault, PictureDocument, Repair } from '../../contract/document.ts';
import type { Shape } from '../../core/mask/shapes.ts';
import { mayRepair } from '../../core/plan/policy.ts';
import { newFault, workOut, workOutRemoval } from './edits.ts';
import { workOutFill, workOutMany } from './fills.ts';

const SIZE = { width: 2000, height: 1500 };
const dab = (x: number, y: number, size: number): Shape[] => [{ op: 'add', kind: 'brush', points: [[x, y]], size }];
const empty = (): PictureDocument => ({ faults: [], layers: [], repairs: [] });

function marked(...marks: Array<[number, number, number, Fault['kind']]>): PictureDocument {
  const document = empty();
  for (const [x, y, size, kind] of marks) document.faults.push(newFault(document, dab(x, y, size), kind, SIZE));
  return document;
}

/** The document after an edit. */
function after(document: PictureDocument, changes: ReturnType<typeof workOut>['changes']): PictureDocument {
  const next = { faults: [...document.faults], layers: [...document.layers], repairs: [...document.repairs] };
  for (const { kind, id, after: doc } of changes) {
    const list = next[`${kind}s` as const] as Array<{ id: string }>;
    const at = list.findIndex((row) => row.id === id);
    if (at >= 0) list.splice(at, 1);
    if (doc) list.push(doc);
  }
  return next;
}

describe('marking', () => {
  test('many finds become faults with running numbers; those beside the picture are left out', () => {
    const document = marked([100, 100, 10, 'speck']);
    const edit = workOut(
      document,
      {
        type: 'addFaults',
        faults: [
          { kind: 'speck', shapes: dab(300, 300, 8), found: 'f1' },
          { kind: 'hair', shapes: dab(-500, -500, 8), found: 'f2' },
          { kind: 'hair', shapes: dab(400, 300, 8), found: 'f3' },
        ],
      },
      SIZE,
    );
    expect(edit.label).toBe('Take 2 into the worklist');
    expect(edit.changes.map((c) => c.after as Fault).map((f) => [f.number, f.kind, f.found])).toEqual([
      [2, 'speck', 'f1'],
      [3, 'hair', 'f3'],
    ]);
    const beside = [{ kind: 'speck' as const, shapes: dab(-900, 0, 4) }];
    expect(() => workOut(document, { type: 'addFaults', faults: beside }, SIZE)).toThrow(/lies on the picture/);
  });

  test('advice decides margin, feather and strength, each mark its own, and its reason is kept', () => {
    const advice = [1, 2].map((n) => ({
      margin: n,
      feather: n + 1,
      strength: 0.8,
      reach: 90,
      portions: n,
      reason: `because ${n}`,
    }));
    const faults = [1, 2].map((n) => ({ kind: 'crease' as const, shapes: dab(n * 100, 100, 20) }));
    const { changes } = workOut(empty(), { type: 'addFaults', faults }, SIZE, advice);
    const made = changes.map((c) => c.after as Fault);
    expect(made.map((f) => [f.margin, f.feather, f.advice!.reason])).toEqual([
      [1, 2, 'because 1'],
      [2, 3, 'because 2'],
    ]);
    const document = { ...empty(), faults: made };
    const request = { faultIds: [made[0].id], layerId: null, repairId: null, donorArea: [], barred: [], settings: {} };
    const fill = workOutFill(document, request, SIZE, 'restoration');
    expect((fill.changes.find((c) => c.kind === 'repair')!.after as Repair).strength).toBe(0.8);
  });

  test('a fault that holds others takes their place, except where they are treated already', () => {
    const document = marked([100, 100, 10, 'strand'], [300, 100, 10, 'strand'], [500, 100, 10, 'strand']);
    const [a, b, c] = document.faults;
    document.repairs.push({ faultIds: [b.id] } as Repair);
    const { changes } = workOut(
      document,
      { type: 'addFault', kind: 'mesh', shapes: dab(300, 100, 400), replaces: [a.id, b.id] },
      SIZE,
    );
    const { faults } = after(document, changes);
    expect(faults.map((f) => f.id).sort()).toEqual([b.id, c.id, faults.find((f) => f.kind === 'mesh')!.id].sort());
  });
});

describe('treating many', () => {
  const document = marked(
    [100, 100, 10, 'speck'],
    [118, 100, 10, 'speck'],
    [1500, 900, 12, 'speck'],
    [900, 900, 30, 'hair'],
  );
  const ids = document.faults.map((f) => f.id);
  const many = workOutMany(document, ids, SIZE, 'documentary');
  const next = after(document, many.changes);

  test('each gets a repair with one try, on the layer of its kind, in the order given', () => {
    expect(next.repairs.map((r) => r.faultIds[0])).toEqual(ids);
    expect(next.repairs.every((r) => r.tries.length === 1 && r.chosen === r.tries[0].id)).toBe(true);
    expect(next.layers.map((l) => l.name)).toEqual(['Specks', 'Hairs']);
    expect(new Set(next.repairs.map((r) => r.order)).size).toBe(4);
    expect(next.faults.every((f) => f.state === 'treated')).toBe(true);
    expect(many.label).toBe('Treat 4 faults');
  });

  test('none samples an untreated neighbour, and what is far away is no burden', () => {
    const avoided = next.repairs.map((r) => {
      const { spec } = r.tries[0];
      return spec.method === 'fill' ? spec.avoid.length : -1;
    });
    expect(avoided).toEqual([1, 1, 0, 0]);
  });

  test('faults that are treated or left are passed over; with none open it is refused', () => {
    const rest = { ...next, faults: next.faults.map((f, n) => (n === 3 ? { ...f, state: 'open' as const } : f)) };
    expect(workOutMany(rest, ids, SIZE, 'creative').repairIds).toHaveLength(1);
    expect(() => workOutMany(next, ids, SIZE, 'creative')).toThrow(/None of these faults is open/);
  });

  test('taking repairs out again opens their faults, unless another repair treats them', () => {
    const [first, second] = next.repairs;
    const twice = {
      ...next,
      repairs: [...next.repairs, { ...second, id: 'another00', faultIds: [...first.faultIds] }],
    };
    expect(after(next, workOutRemoval(next, [first])).faults.find((f) => f.id === ids[0])!.state).toBe('open');
    expect(after(twice, workOutRemoval(twice, [first])).faults.find((f) => f.id === ids[0])!.state).toBe('treated');
  });
});

test('thin strands are predicted also where they cross and are deeper', () => {
  const document = marked([500, 500, 18, 'mesh'], [900, 500, 18, 'object']);
  const styles = document.faults.map((f) => {
    const request = { faultIds: [f.id], layerId: null, repairId: null, donorArea: [], barred: [], settings: {} };
    const repair = workOutFill(document, request, SIZE, 'creative').changes.find((c) => c.kind === 'repair')!
      .after as Repair;
    return repair.tries.map(({ spec }) => (spec.method === 'fill' ? spec.style : ''));
  });
  expect(styles).toEqual([
    ['faithful', 'smooth', 'textured'],
    ['near', 'far', 'lines'],
  ]);
});

test.each([
  ['documentary', 'speck', true],
  ['documentary', 'scratch', true],
  ['documentary', 'object', false],
  ['documentary', 'strand', false],
  ['restoration', 'lettering', true],
  ['creative', 'object', true],
] as const)('in a %s job a %s may be repaired: %s', (policy, kind, may) => {
  expect(mayRepair(policy, kind)).toBe(may);
  const document = marked([100, 100, 20, kind]);
  const fill = () => workOutMany(document, [document.faults[0].id], SIZE, policy);
  if (may) expect(fill().repairIds).toHaveLength(1);
  else expect(fill).toThrow(/documentary job/);
});
