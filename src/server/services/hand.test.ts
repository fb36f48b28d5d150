import type { Edit } from '../../contract/api.ts';
import { editSchema } from '../../contract/api.ts';
import type { Fault, HandSpec, PictureDocument, Repair } from '../../contract/document.ts';
import type { Stroke } from '../../core/mask/strokes.ts';
import { isEarlier, versionOf } from '../../core/repair/registry.ts';
import { newFault } from '../../document/edits/faults.ts';
import { newLayer } from '../../document/edits/layers.ts';
import { planEdit } from '../../document/edits/plan-edit.ts';
import { refusedByPolicy } from '../../document/edits/fills.ts';
import { difference, renderKey, RenderIndex, stackOf, type PlacedPatch } from '../pictures/stack.ts';

const SIZE = { x: 0, y: 0, width: 2000, height: 1500 };
const stroke = (x: number, y: number): Stroke => ({
  points: [[x, y, 1]],
  size: 20,
  hardness: 0.7,
  flow: 0.7,
  opacity: 1,
  spacing: 0.12,
  pressure: 'none',
});
const copy = (x = 100, y = 100): HandSpec => ({
  method: 'copy',
  strokes: [stroke(x, y)],
  donor: { from: [300, 100], at: [100, 100], turn: 0, scale: 1, mirror: 'none', travels: true },
});
const mark = {
  kind: 'scratch' as const,
  shapes: [{ op: 'add' as const, kind: 'box' as const, x: 90, y: 90, width: 20, height: 20 }],
};
const empty = (): PictureDocument => ({ faults: [], layers: [], repairs: [], steps: [] });

/** The document after an edit, rows in the order in which the store reads them. */
function after(document: PictureDocument, edit: Edit): PictureDocument {
  const next = {
    faults: [...document.faults],
    layers: [...document.layers],
    repairs: [...document.repairs],
    steps: [...document.steps],
  };
  for (const { kind, id, after: doc } of planEdit(document, editSchema.parse(edit), SIZE).changes) {
    const list = next[`${kind}s` as const] as Array<{ id: string }>;
    const at = list.findIndex((row) => row.id === id);
    if (at >= 0) list.splice(at, 1);
    if (doc) list.push(doc);
  }
  next.layers.sort((a, b) => a.order - b.order);
  next.repairs.sort((a, b) => a.order - b.order);
  return next;
}
const placed = (document = empty(), spec: HandSpec = copy()) =>
  after(document, { type: 'placeRepair', spec, faultIds: [], mark, layerId: null });
const chosen = (r: Repair) => r.tries.find((t) => t.id === r.chosen)!.spec;

describe('a repair by hand', () => {
  test('marks its place, lies on the layer of its kind and treats it', () => {
    const { faults, layers, repairs } = placed();
    expect(faults.map((f) => [f.number, f.kind, f.state])).toEqual([[1, 'scratch', 'treated']]);
    expect(layers.map((l) => l.name)).toEqual(['Scratches']);
    expect(repairs[0]).toMatchObject({ layerId: layers[0].id, faultIds: [faults[0].id], strength: 1, visible: true });
    expect(chosen(repairs[0])).toEqual({ ...copy(), version: versionOf('copy') });
  });

  test('is called what the sender calls it, so that strokes can follow at once, but not as another is', () => {
    const id = 'a1b2c3d4e5f6';
    const edit: Edit = { type: 'placeRepair', id, spec: copy(), faultIds: [], mark, layerId: null };
    const document = after(empty(), edit);
    expect(document.repairs.map((r) => r.id)).toEqual([id]);
    const next = after(document, { type: 'addStrokes', id, strokes: [stroke(120, 100)] });
    expect((chosen(next.repairs[0]) as { strokes: Stroke[] }).strokes).toHaveLength(2);
    expect(() => after(document, edit)).toThrow(/there already/);
  });

  test('is dated by what renders it, whatever the sender says, also where strokes join an older one', () => {
    const blend = { ...copy(), method: 'blend', avoid: [], version: 1 } as HandSpec;
    const document = placed(empty(), blend);
    const [repair] = document.repairs;
    expect(chosen(repair).version).toBe(versionOf('blend'));
    const older = { ...repair, tries: [{ id: repair.chosen, spec: blend }] };
    expect(isEarlier(chosen(older))).toBe(true);
    const next = after(
      { ...document, repairs: [older] },
      { type: 'addStrokes', id: repair.id, strokes: [stroke(120, 100)] },
    );
    expect(isEarlier(chosen(next.repairs[0]))).toBe(false);
  });

  test('treats a fault that was there, on the layer that was chosen', () => {
    const document = empty();
    document.faults.push(newFault(document, mark.shapes, 'crease', SIZE));
    document.layers.push(newLayer(document, 'Left wall'));
    const next = after(document, {
      type: 'placeRepair',
      spec: copy(),
      faultIds: [document.faults[0].id],
      layerId: document.layers[0].id,
      strength: 0.7,
    });
    expect(next.layers).toHaveLength(1);
    expect(next.faults[0].state).toBe('treated');
    expect(next.repairs[0].strength).toBe(0.7);
  });

  test('takes further strokes, other settings and another method, and nothing else changes', () => {
    let document = placed();
    const { id, chosen: tryId } = document.repairs[0];
    document = after(document, { type: 'addStrokes', id, strokes: [stroke(120, 100), stroke(140, 100)] });
    const spec = chosen(document.repairs[0]);
    expect('strokes' in spec && spec.strokes.map((s) => s.points[0][0])).toEqual([100, 120, 140]);
    document = after(document, { type: 'changeSpec', id, spec: { ...copy(), method: 'blend', avoid: [] } as HandSpec });
    expect(chosen(document.repairs[0]).method).toBe('blend');
    expect(document.repairs[0].chosen).toBe(tryId);
    expect(document.repairs).toHaveLength(1);
  });

  test('a fill is not turned into one, and bad settings are refused by the contract', () => {
    const document = placed();
    const repair = document.repairs[0];
    const fill = { ...repair, tries: [{ id: repair.chosen, spec: { method: 'fill' } as never }] };
    const filled = { ...document, repairs: [fill] };
    expect(() => planEdit(filled, { type: 'addStrokes', id: repair.id, strokes: [stroke(1, 1)] }, SIZE)).toThrow(
      'searches its donors itself',
    );
    const scaled = { ...copy(), donor: { ...(copy() as { donor: object }).donor, scale: 9 } };
    expect(editSchema.safeParse({ type: 'changeSpec', id: repair.id, spec: scaled }).success).toBe(false);
    expect(
      editSchema.safeParse({ type: 'addStrokes', id: repair.id, strokes: [{ ...stroke(1, 1), flow: 0 }] }).success,
    ).toBe(false);
  });

  test('a documentary job refuses to change the scene by hand too', () => {
    const object: Pick<Fault, 'kind'> = { kind: 'object' };
    expect(() => refusedByPolicy('documentary', [object])).toThrow('this (object) is part of the scene');
    expect(() => refusedByPolicy('documentary', [{ kind: 'scratch' }])).not.toThrow();
    expect(() => refusedByPolicy('creative', [object])).not.toThrow();
  });

  test('one strength for a selection', () => {
    const document = placed(placed());
    const ids = document.repairs.map((r) => r.id);
    const next = after(document, { type: 'setStrength', ids, strength: 0.4 });
    expect(next.repairs.map((r) => r.strength)).toEqual([0.4, 0.4]);
    expect(() => planEdit(next, { type: 'setStrength', ids, strength: 0.4 }, SIZE)).toThrow(/strength already/);
  });
});

describe('layers', () => {
  const two = () => {
    let document = placed();
    document = after(document, { type: 'addLayer', name: 'Above' });
    const top = document.layers.at(-1)!;
    document = after(document, { type: 'placeRepair', spec: copy(400, 400), faultIds: [], mark, layerId: top.id });
    return { document, top, below: document.layers[0] };
  };

  test('duplicated: the same repairs once more, each its own, right above', () => {
    const { document, below } = two();
    const next = after(document, { type: 'duplicateLayer', id: below.id });
    expect(next.layers.map((l) => l.name)).toEqual(['Scratches', 'Scratches (copy)', 'Above']);
    const twin = next.repairs.filter((r) => r.layerId === next.layers[1].id);
    expect(twin.map(chosen)).toEqual(document.repairs.filter((r) => r.layerId === below.id).map(chosen));
    expect(new Set(next.repairs.flatMap((r) => [r.id, r.chosen])).size).toBe(2 * next.repairs.length);
  });

  test('merged down: what acted on a layer acts on its repairs, in the same order', () => {
    const { document, top, below } = two();
    const marks = [{ op: 'hide' as const, kind: 'area' as const, shapes: mark.shapes, feather: 0 }];
    let set = after(document, { type: 'changeLayer', id: top.id, set: { opacity: 0.5, reveal: marks } });
    set = after(set, { type: 'changeRepair', id: set.repairs[1].id, set: { strength: 0.8 } });
    const next = after(set, { type: 'mergeLayer', id: top.id });
    expect(next.layers.map((l) => l.id)).toEqual([below.id]);
    expect(next.repairs.map((r) => r.layerId)).toEqual([below.id, below.id]);
    expect(next.repairs.map(chosen).map((s) => ('strokes' in s ? s.strokes[0].points[0][0] : 0))).toEqual([100, 400]);
    expect(next.repairs[1].strength).toBeCloseTo(0.4);
    expect(next.repairs[1].reveal).toEqual(marks);
    expect(next.repairs[0].reveal).toBeUndefined();
    expect(() => planEdit(next, { type: 'mergeLayer', id: below.id }, SIZE)).toThrow('no layer beneath');
  });

  test('the original is brought back through all of them', () => {
    const { document } = two();
    const next = after(document, { type: 'bringBack', shapes: mark.shapes, feather: 6 });
    expect(next.layers.map((l) => l.reveal)).toEqual(
      document.layers.map(() => [{ op: 'hide', kind: 'area', shapes: mark.shapes, feather: 6 }]),
    );
    expect(() => planEdit(empty(), { type: 'bringBack', shapes: mark.shapes, feather: 6 }, SIZE)).toThrow('no repair');
  });

  test('hiding parts changes what is shown and what lies beneath others, not the rendering itself', () => {
    const { document } = two();
    const marks = [{ op: 'hide' as const, kind: 'area' as const, shapes: mark.shapes, feather: 0 }];
    const rows = (d: PictureDocument) => {
      const index = new RenderIndex();
      for (const r of d.repairs) {
        const key = renderKey('original', chosen(r), []);
        index.add({
          pictureId: 'p',
          key,
          tryId: r.chosen,
          patch: '',
          box: { x: 80, y: 80, width: 40, height: 40 },
          reason: '',
        });
      }
      return stackOf(d, 'original', SIZE, index);
    };
    const plain = rows(document);
    const hidden = rows(after(document, { type: 'changeRepair', id: document.repairs[0].id, set: { reveal: marks } }));
    expect(hidden[0].key).toBe(plain[0].key);
    expect(hidden[0].current).toBe(true);
    const shown = (list: typeof plain) => list.flatMap((e): PlacedPatch[] => (e.shown ? [e.shown] : []));
    expect(difference(shown(plain), shown(hidden))).toEqual([
      { x: 80, y: 80, width: 40, height: 40 },
      { x: 80, y: 80, width: 40, height: 40 },
    ]);
    expect(renderKey('original', copy(), shown(plain).slice(0, 1))).not.toBe(
      renderKey('original', copy(), shown(hidden).slice(0, 1)),
    );
  });
});
