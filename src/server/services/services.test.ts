import { fillRequestSchema } from '../../contract/api.ts';
import type { FillRequest } from '../../contract/api.ts';
import type { Fault, PictureDocument, Repair } from '../../contract/document.ts';
import { rasterise, type Shape } from '../../core/mask/shapes.ts';
import { mayRepair } from '../../core/plan/policy.ts';
import { isEarlier, versionOf } from '../../core/repair/registry.ts';
import { defaultsTold } from '../../document/edits/told.ts';
import { newFault } from '../../document/edits/faults.ts';
import { planEdit } from '../../document/edits/plan-edit.ts';
import { planRemoval } from '../../document/edits/repairs.ts';
import { planFill, planPortions } from '../../document/edits/fills.ts';
import { planTreatments } from '../../document/edits/treat.ts';

const SIZE = { x: 0, y: 0, width: 2000, height: 1500 };
const dab = (x: number, y: number, size: number): Shape[] => [{ op: 'add', kind: 'brush', points: [[x, y]], size }];
const empty = (): PictureDocument => ({ faults: [], layers: [], repairs: [], steps: [] });

function marked(...marks: Array<[number, number, number, Fault['kind']]>): PictureDocument {
  const document = empty();
  for (const [x, y, size, kind] of marks) document.faults.push(newFault(document, dab(x, y, size), kind, SIZE));
  return document;
}

/** The document after an edit. */
function after(document: PictureDocument, changes: ReturnType<typeof planEdit>['changes']): PictureDocument {
  const next = {
    faults: [...document.faults],
    layers: [...document.layers],
    repairs: [...document.repairs],
    steps: [...document.steps],
  };
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
    const edit = planEdit(
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
    expect(() => planEdit(document, { type: 'addFaults', faults: beside }, SIZE)).toThrow(/lies on the picture/);
  });

  test('advice decides margin, feather and strength, each mark its own, and its reason is kept', () => {
    const advice = [1, 2].map((n) => ({
      method: 'fill' as const,
      margin: n,
      feather: n + 1,
      strength: 0.8,
      reach: 90,
      portions: n,
      reason: `because ${n}`,
    }));
    const faults = [1, 2].map((n) => ({ kind: 'crease' as const, shapes: dab(n * 100, 100, 20) }));
    const { changes } = planEdit(empty(), { type: 'addFaults', faults }, SIZE, advice);
    const made = changes.map((c) => c.after as Fault);
    expect(made.map((f) => [f.margin, f.feather, f.advice!.reason])).toEqual([
      [1, 2, 'because 1'],
      [2, 3, 'because 2'],
    ]);
    const document = { ...empty(), faults: made };
    const request = { faultIds: [made[0].id], layerId: null, repairId: null, donorArea: [], barred: [], settings: {} };
    const fill = planFill(document, request, SIZE, 'restoration');
    expect((fill.changes.find((c) => c.kind === 'repair')!.after as Repair).strength).toBe(0.8);
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
  const many = planTreatments(document, ids, SIZE, 'documentary');
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
    expect(planTreatments(rest, ids, SIZE, 'creative').repairIds).toHaveLength(1);
    expect(() => planTreatments(next, ids, SIZE, 'creative')).toThrow(/None of these faults is open/);
  });

  test('taking repairs out again opens their faults, unless another repair treats them', () => {
    const [first, second] = next.repairs;
    const twice = {
      ...next,
      repairs: [...next.repairs, { ...second, id: 'another00', faultIds: [...first.faultIds] }],
    };
    expect(after(next, planRemoval(next, [first])).faults.find((f) => f.id === ids[0])!.state).toBe('open');
    expect(after(twice, planRemoval(twice, [first])).faults.find((f) => f.id === ids[0])!.state).toBe('treated');
  });
});

test('thin strands are predicted also where they cross and are deeper', () => {
  const document = marked([500, 500, 18, 'mesh'], [900, 500, 18, 'object']);
  const styles = document.faults.map((f) => {
    const request = { faultIds: [f.id], layerId: null, repairId: null, donorArea: [], barred: [], settings: {} };
    const repair = planFill(document, request, SIZE, 'creative').changes.find((c) => c.kind === 'repair')!
      .after as Repair;
    return repair.tries.map(({ spec }) => (spec.method === 'fill' ? spec.style : ''));
  });
  expect(styles).toEqual([
    ['faithful', 'smooth', 'textured'],
    ['first', 'second', 'third'],
  ]);
});

describe('further tries and guides', () => {
  const request = { layerId: null, repairId: null, donorArea: [], barred: [], settings: {} };
  const stylesOf = (repair: Repair) => repair.tries.map(({ spec }) => (spec.method === 'fill' ? spec.style : ''));
  const filled = (document: PictureDocument, more: Partial<FillRequest> = {}) => {
    const { changes } = planFill(
      document,
      { ...request, faultIds: [document.faults[0].id], ...more },
      SIZE,
      'creative',
    );
    const repair = changes.find((c) => c.kind === 'repair')!.after as Repair;
    return { next: after(document, changes), repair };
  };

  test('three more of a wide fault search donors, with other seeds each time', () => {
    const { next, repair } = filled(marked([500, 500, 200, 'object']));
    const again = filled(next, { repairId: repair.id });
    const third = filled(again.next, { repairId: repair.id });
    expect(stylesOf(third.repair).slice(3)).toEqual(['near', 'far', 'lines', 'near', 'far', 'lines']);
    const seeds = third.repair.tries.map(({ spec }) => spec.method === 'fill' && spec.seed);
    expect(new Set(seeds).size).toBe(9);
  });

  test('what is drawn about edges and grounds is kept in the spec, and makes layouts of a thin cover too', () => {
    const line = (x: number): Shape => ({
      op: 'add',
      kind: 'strand',
      points: [
        [x, 480],
        [x + 40, 520],
      ],
      size: 4,
    });
    const { next, repair } = filled(marked([500, 500, 8, 'strand']), { edges: [line(480)], grounds: [line(500)] });
    expect(stylesOf(repair)).toEqual(['first', 'second', 'third']);
    for (const { spec } of repair.tries) expect(spec).toMatchObject({ edges: [line(480)], grounds: [line(500)] });
    expect(stylesOf(filled(next, { repairId: repair.id, edges: [line(490)] }).repair).slice(3)).toEqual([
      'first',
      'second',
      'third',
    ]);
    expect(filled(marked([500, 500, 8, 'strand'])).repair.tries[0].spec).not.toHaveProperty('edges');
  });
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
  const fill = () => planTreatments(document, [document.faults[0].id], SIZE, policy);
  if (may) expect(fill().repairIds).toHaveLength(1);
  else expect(fill).toThrow(/documentary job/);
});

test('a restoration asks before it fills over what can still be read', () => {
  const document = marked([100, 100, 20, 'stain']);
  const [{ id }] = document.faults;
  const fill = (policy: 'restoration' | 'creative', anyway?: boolean) =>
    planFill(document, { ...fillRequestSchema.parse({ faultIds: [id] }), anyway }, SIZE, policy);
  expect(() => fill('restoration')).toThrow(/can still be read.*Lift keeps it.*press Fill once more/);
  expect(fill('restoration', true).tryIds).toHaveLength(3);
  expect(fill('creative').tryIds).toHaveLength(3);
});

describe('a large fault in portions', () => {
  const large = () => {
    const document = empty();
    const shapes: Shape[] = [{ op: 'add', kind: 'box', x: 400, y: 300, width: 900, height: 400 }];
    document.faults.push(
      newFault(document, shapes, 'object', SIZE),
      newFault(document, dab(200, 200, 20), 'speck', SIZE),
    );
    return document;
  };
  const request = (document: PictureDocument, portions: number) => ({
    faultIds: [document.faults[0].id],
    layerId: null,
    repairId: null,
    donorArea: [],
    barred: [],
    settings: {},
    portions,
  });
  const frame = { x: 350, y: 250, width: 1000, height: 500 };

  test('the portions cover the fault once and whole, and none samples what is still to be filled', () => {
    const document = large();
    const { changes, repairIds } = planPortions(document, request(document, 3), SIZE, 'creative');
    const repairs = changes.filter((c) => c.kind === 'repair').map((c) => c.after as Repair);
    expect(repairs.map((r) => r.id)).toEqual(repairIds);
    expect(repairs.map((r) => r.order)).toEqual([1, 2, 3]);
    expect(changes.filter((c) => c.kind === 'fault')).toHaveLength(1);
    const covers = repairs.map((r) => {
      const { spec } = r.tries[0];
      if (spec.method !== 'fill') throw new Error('no fill');
      return { cover: rasterise(spec.cover, frame).data, avoid: rasterise(spec.avoid, frame).data, shapes: spec.avoid };
    });
    const whole = rasterise(document.faults[0].shapes, frame).data;
    for (let i = 0; i < whole.length; i++) {
      const times = covers.filter((c) => c.cover[i]).length;
      if (times !== (whole[i] ? 1 : 0)) throw new Error(`pixel ${i} is covered ${times} times`);
      covers.forEach((c, n) => {
        const later = covers.slice(n + 1).some((l) => l.cover[i]);
        if (later !== c.avoid[i] > 0) throw new Error(`pixel ${i} of portion ${n} is ${later ? 'not ' : ''}avoided`);
      });
    }
    // The other open fault is avoided by each of them.
    const speck = { x: 190, y: 190, width: 20, height: 20 };
    for (const c of covers) expect(rasterise(c.shapes, speck).data.some((v) => v > 0)).toBe(true);
  });

  test('a changed cover keeps the portions apart', () => {
    const document = large();
    const made = after(document, planPortions(document, request(document, 2), SIZE, 'creative').changes);
    const set = { shapes: [...document.faults[0].shapes, ...dab(1300, 500, 60)] };
    const changed = after(made, planEdit(made, { type: 'changeFault', id: document.faults[0].id, set }, SIZE).changes);
    const covers = changed.repairs.map(({ tries: [{ spec }] }) =>
      spec.method === 'fill' ? rasterise(spec.cover, frame).data : new Uint8Array(),
    );
    const middle = (500 - 250) * 1000;
    expect(covers.map((c) => c[middle + 1320 - 350] > 0)).toEqual([false, true]);
    expect(covers.map((c) => c[middle + 500 - 350] > 0)).toEqual([true, false]);
  });
});

describe('what the editor changes is remembered for the kind', () => {
  const advised = {
    method: 'fill' as const,
    margin: 2,
    feather: 1,
    strength: 1,
    reach: 90,
    portions: 1,
    reason: 'Because.',
  };

  test('margin and feather as a difference, strength as it was set; the reason says so', () => {
    const document = empty();
    const fault = newFault(document, dab(100, 100, 20), 'speck', SIZE, advised);
    document.faults.push(fault);
    expect(defaultsTold(document, { type: 'changeFault', id: fault.id, set: { margin: 5 } })).toEqual({
      kind: 'speck',
      set: { margin: 3 },
    });
    expect(defaultsTold(document, { type: 'changeFault', id: fault.id, set: { state: 'left' } })).toBeNull();
    const next = newFault(document, dab(300, 300, 20), 'stain', SIZE, advised, {
      margin: 3,
      feather: -4,
      strength: 0.7,
    });
    expect([next.margin, next.feather, next.advice?.strength]).toEqual([5, 0, 0.7]);
    expect(next.advice?.reason).toBe(
      'Because. As last time in this job: margin 3 px more, feather 1 px less, strength 70 % (usual 100 %).',
    );
    // The difference is always that to what was proposed, not to what the habit made of it.
    expect(
      defaultsTold({ ...document, faults: [next] }, { type: 'changeFault', id: next.id, set: { margin: 5 } })?.set,
    ).toEqual({
      margin: 3,
    });
  });

  test('a strength tells of its kind only when one fault has it', () => {
    const document = marked([100, 100, 10, 'crease'], [300, 100, 10, 'crease']);
    const repair = (faultIds: string[]) => ({ id: 'aaaaaaaa', faultIds }) as Repair;
    const edit = { type: 'changeRepair' as const, id: 'aaaaaaaa', set: { strength: 0.6 } };
    const [a, b] = document.faults;
    expect(defaultsTold({ ...document, repairs: [repair([a.id])] }, edit)).toEqual({
      kind: 'crease',
      set: { strength: 0.6 },
    });
    expect(defaultsTold({ ...document, repairs: [repair([a.id, b.id])] }, edit)).toBeNull();
  });
});

describe('made by an earlier version', () => {
  const treated = () => {
    const document = marked([500, 500, 60, 'object'], [900, 500, 60, 'object']);
    const made = after(
      document,
      planTreatments(document, [document.faults[0].id, document.faults[1].id], SIZE, 'creative').changes,
    );
    const [first] = made.repairs;
    const tries = first.tries.map((t) => ({
      ...t,
      spec: { ...t.spec, version: undefined, style: 'near' } as typeof t.spec,
    }));
    return { ...made, repairs: [{ ...first, tries }, made.repairs[1]] };
  };

  test('what is made anew takes the present version and its style; the rest stays', () => {
    const document = treated();
    const [old, own] = document.repairs;
    expect(isEarlier(old.tries[0].spec)).toBe(true);
    expect(isEarlier(own.tries[0].spec)).toBe(false);
    const edit = planEdit(document, { type: 'renew', ids: [old.id, own.id] }, SIZE);
    expect(edit.label).toBe('Make a repair anew');
    expect(edit.changes.map((c) => c.id)).toEqual([old.id]);
    const [next] = (edit.changes[0].after as Repair).tries;
    expect(next.spec).toMatchObject({ method: 'fill', style: 'first', version: versionOf('fill') });
    expect(next.id).toBe(old.tries[0].id);
  });

  test('nothing to be made anew is said', () => {
    const document = treated();
    expect(() => planEdit(document, { type: 'renew', ids: [document.repairs[1].id] }, SIZE)).toThrow(/present version/);
  });
});
