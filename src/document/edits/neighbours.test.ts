import { fillRequestSchema, type Edit } from '../../contract/api.ts';
import type { Change, Fault, PictureDocument, Repair } from '../../contract/document.ts';
import type { Shape } from '../../core/mask/shapes.ts';
import type { FillSpec, LiftSpec } from '../../core/repair/spec.ts';
import type { Advice } from '../../core/plan/advice.ts';
import { newFault } from './faults.ts';
import { planFill } from './fills.ts';
import { withNeighbours } from './neighbours.ts';
import { planEdit } from './plan-edit.ts';
import { methodOf } from './proposed.ts';
import { planTreatments } from './treat.ts';

const SIZE = { x: 0, y: 0, width: 2000, height: 1500 };
const dab = (x: number, y: number, size = 30): Shape[] => [{ op: 'add', kind: 'brush', points: [[x, y]], size }];

function marked(...marks: Array<[x: number, y: number, kind: Fault['kind']]>): PictureDocument {
  const document: PictureDocument = { faults: [], layers: [], repairs: [], steps: [] };
  for (const [x, y, kind] of marks) document.faults.push(newFault(document, dab(x, y), kind, SIZE));
  return document;
}

function after(document: PictureDocument, { changes }: { changes: Change[] }): PictureDocument {
  const next = {
    ...document,
    faults: [...document.faults],
    layers: [...document.layers],
    repairs: [...document.repairs],
  };
  for (const { kind, id, after: row } of changes) {
    const list = next[`${kind}s` as const] as Array<{ id: string }>;
    const at = list.findIndex((r) => r.id === id);
    if (at >= 0 && row) list[at] = row;
    else if (at >= 0) list.splice(at, 1);
    else if (row) list.push(row);
  }
  return next;
}
const edit = (document: PictureDocument, what: Edit) => after(document, planEdit(document, what, SIZE));
const filled = (document: PictureDocument, n: number, layerId: string | null = null) => {
  const request = { ...fillRequestSchema.parse({ faultIds: [document.faults[n].id] }), layerId };
  return after(document, withNeighbours(document, planFill(document, request, SIZE, 'creative')));
};
const specOf = (document: PictureDocument, n = 0) => document.repairs[n].tries[0].spec as FillSpec;

describe('what is left out by a repair', () => {
  const document = filled(marked([500, 500, 'object'], [560, 500, 'object'], [1900, 1400, 'speck']), 0);
  const [, other] = document.faults;

  test('open faults within reach are, with their margin, and only those', () => {
    expect(specOf(document).avoid).toEqual(other.shapes);
    expect(specOf(document).avoidMargin).toBe(other.margin + other.feather / 2);
    expect(specOf(document).spares).toBe(true);
    expect(document.repairs[0].leftOut).toEqual([other.id]);
    expect(specOf(filled(document, 2), 1).spares).toBeUndefined();
  });

  test('one that is removed, moved or left as it is makes it stale, and undo takes that back', () => {
    const removed = edit(document, { type: 'removeFault', id: other.id });
    expect(specOf(removed).avoid).toEqual([]);
    expect(specOf(removed).avoidMargin).toBeUndefined();
    const moved = edit(document, { type: 'changeFault', id: other.id, set: { shapes: dab(580, 520) } });
    expect(specOf(moved).avoid).toEqual(dab(580, 520));
    const left = edit(document, { type: 'changeFault', id: other.id, set: { state: 'left' } });
    expect(specOf(left).avoid).toEqual([]);
    expect(specOf(edit(left, { type: 'changeFault', id: other.id, set: { state: 'open' } })).avoid).toEqual(
      other.shapes,
    );
  });

  test('a change of another fault, or of its kind alone, does not', () => {
    for (const what of [
      { type: 'removeFault' as const, id: document.faults[2].id },
      { type: 'changeFault' as const, id: other.id, set: { kind: 'speck' as const } },
    ])
      expect(edit(document, what).repairs[0]).toBe(document.repairs[0]);
  });

  test('one that is treated beneath it is known from then on; above it, it stays as it was', () => {
    // On a layer of its own at the top, what follows lies beneath.
    const layered = edit(marked([500, 500, 'object'], [560, 500, 'speck']), { type: 'addLayer', name: 'Top' });
    const first = filled(layered, 0, layered.layers[0].id);
    const above = filled(first, 1);
    expect(above.repairs[0]).toBe(first.repairs[0]);
    const below = edit(first, { type: 'addLayer', name: 'Below' });
    const under = edit(below, { type: 'moveLayer', id: below.layers.find((l) => l.name === 'Below')!.id, to: 0 });
    const beneath = filled(under, 1, under.layers.find((l) => l.name === 'Below')!.id);
    expect(beneath.repairs[0].tries[0].spec).toMatchObject({ avoid: [] });
  });
});

describe('treating as proposed', () => {
  test('a stain is lifted from its outline, what crosses it left out, and a speck is filled', () => {
    const document = marked([500, 500, 'stain'], [520, 500, 'hair'], [700, 700, 'speck']);
    expect(document.faults.map(methodOf)).toEqual(['lift', 'fill', 'fill']);
    const ids = document.faults.map((f) => f.id);
    const treated = after(document, planTreatments(document, ids, SIZE, 'restoration'));
    const of = (n: number) => treated.repairs.find((r: Repair) => r.faultIds[0] === ids[n])!;
    const spec = of(0).tries[0].spec as LiftSpec;
    expect(spec).toMatchObject({ method: 'lift', cover: document.faults[0].shapes, amount: 1 });
    expect(spec.avoid).toEqual([...document.faults[1].shapes, ...document.faults[2].shapes]);
    expect([of(1), of(2)].map((r) => r.tries[0].spec.method)).toEqual(['fill', 'fill']);
    // What was treated with it is not waited for.
    expect(treated.repairs.map((r) => r.leftOut)).toEqual([undefined, undefined, undefined]);
  });

  test('a lift follows its fault and keeps its amount; a documentary job refuses that of a shadow', () => {
    const document = marked([500, 500, 'stain'], [900, 500, 'shadow']);
    const [stain, shadow] = document.faults;
    const lifted = edit(document, { type: 'lift', faultIds: [stain.id], layerId: null });
    expect(lifted.faults[0].state).toBe('treated');
    const { spec } = lifted.repairs[0].tries[0];
    const weak = edit(lifted, {
      type: 'changeSpec',
      id: lifted.repairs[0].id,
      spec: { ...(spec as LiftSpec), amount: 0.6 },
    });
    const moved = edit(weak, { type: 'changeFault', id: stain.id, set: { shapes: dab(505, 505, 40) } });
    expect(moved.repairs[0].tries[0].spec).toMatchObject({ amount: 0.6, cover: dab(505, 505, 40) });
    expect(() => planTreatments(document, [shadow.id], SIZE, 'documentary')).toThrow(/documentary job/);
  });
});

test('of faults that are treated at once none leaves a crossing to the other', () => {
  const document = marked([500, 500, 'object'], [505, 500, 'object']);
  const ids = document.faults.map((f) => f.id);
  const treated = after(document, planTreatments(document, ids, SIZE, 'creative'));
  expect(treated.repairs).toHaveLength(2);
  for (const { tries } of treated.repairs) expect((tries[0].spec as FillSpec).spares).toBeUndefined();
});

test('what lets the picture through is no unknown: a hair in a stain goes by what is around it there', () => {
  const document = marked([500, 500, 'stain'], [520, 500, 'hair']);
  const crease = newFault(document, dab(505, 505), 'crease', SIZE);
  crease.advice = { reason: '', strength: 1, portions: 1, method: 'lift', lost: dab(505, 505, 3) };
  document.faults.push(crease);
  expect(specOf(filled(document, 1)).avoid).toEqual(dab(505, 505, 3));
  const ids = document.faults.map((f) => f.id);
  const treated = after(document, planTreatments(document, ids.reverse(), SIZE, 'restoration'));
  // Lifted beneath, filled above.
  expect(treated.repairs.map((r) => r.tries[0].spec.method)).toEqual(['lift', 'fill', 'lift', 'fill']);
});

describe('a repair of a part of its fault', () => {
  const creased = () => {
    const document = marked([500, 500, 'crease'], [800, 800, 'object']);
    document.faults[0].advice = { reason: '', strength: 1, portions: 1, method: 'lift', lost: dab(500, 500, 6) };
    return edit(document, { type: 'lift', faultIds: [document.faults[0].id], layerId: null });
  };

  test('stays a part with three more tries, and with another cover of its fault; margin and feather follow', () => {
    const document = creased();
    const [lift, fill] = document.repairs;
    expect([lift.tries[0].spec.method, fill.tries[0].spec.method]).toEqual(['lift', 'fill']);
    expect(specOf(document, 1).cover).toEqual(dab(500, 500, 6));
    const request = fillRequestSchema.parse({ faultIds: [document.faults[0].id], repairId: fill.id });
    const again = after(document, planFill(document, request, SIZE, 'creative'));
    expect(again.repairs[1].tries.map((t) => (t.spec as FillSpec).cover)).toEqual(
      again.repairs[1].tries.map(() => dab(500, 500, 6)),
    );
    const wider = edit(document, { type: 'changeFault', id: document.faults[0].id, set: { margin: 7, feather: 2 } });
    expect(specOf(wider, 1)).toMatchObject({ cover: dab(500, 500, 6), margin: 7, feather: 2 });
  });
});

describe('how a fault is treated', () => {
  const advised = (method: 'fill' | 'lift', margin: number): Advice => ({
    method,
    margin,
    feather: 1,
    strength: 1,
    reach: 90,
    portions: 1,
    reason: `${method} with ${margin}`,
  });

  test('goes by what it is taken for now', () => {
    const document = marked([500, 500, 'object']);
    const [fault] = document.faults;
    expect(methodOf(fault)).toBe('fill');
    const now = edit(document, { type: 'changeFault', id: fault.id, set: { kind: 'stain' } }).faults[0];
    expect(methodOf(now)).toBe('lift');
    expect(methodOf({ kind: 'object', advice: { reason: '', strength: 1, portions: 1, method: 'lift' } })).toBe('fill');
    expect(methodOf({ kind: 'crease', advice: { reason: '', strength: 1, portions: 1, method: 'lift' } })).toBe('lift');
  });

  test('is proposed anew when it is marked otherwise; what the editor set stays, and a treated one stays as it is', () => {
    const document = marked([500, 500, 'object']);
    const { id } = document.faults[0];
    const change = (d: PictureDocument, set: Extract<Edit, { type: 'changeFault' }>['set'], advice: Advice) =>
      after(d, planEdit(d, { type: 'changeFault', id, set }, SIZE, [advice]));
    const first = change(document, { shapes: dab(510, 500) }, advised('fill', 9));
    expect(first.faults[0]).toMatchObject({ margin: 9, feather: 1, advice: { reason: 'fill with 9' } });
    const own = edit(first, { type: 'changeFault', id, set: { margin: 20 } });
    const second = change(own, { kind: 'stain' }, advised('lift', 4));
    expect(second.faults[0]).toMatchObject({ margin: 20, feather: 1, advice: { method: 'lift', margin: 4 } });
    const treated = edit(second, { type: 'lift', faultIds: [id], layerId: null });
    expect(change(treated, { kind: 'shadow' }, advised('lift', 5)).faults[0].margin).toBe(20);
  });
});
