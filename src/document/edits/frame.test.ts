import type { Fault, PictureDocument, Repair } from '../../contract/document.ts';
import { applyOperations, invert, operationsOf } from '../operations.ts';
import { canvasOf, specsOf } from '../canvas.ts';
import { around } from '../../core/raster/raster.ts';
import { planEdit } from './plan-edit.ts';
import { fillRequestSchema, type Edit } from '../../contract/api.ts';
import { planFill } from './fills.ts';

const SOURCE = { width: 400, height: 600 };
const EMPTY: PictureDocument = { faults: [], layers: [], repairs: [], steps: [] };
let named = 0;
function framed(document: PictureDocument, set: Omit<Extract<Edit, { type: 'reframe' }>, 'type'>) {
  const { label, changes } = planEdit(document, { type: 'reframe', ...set }, SOURCE, [], {}, () => `row-${named++}`);
  const operations = operationsOf(changes);
  return { label, operations, document: applyOperations(document, operations) };
}
const WIDE = { x: -100, y: 0, width: 600, height: 600 };
const areaOf = (fault: Fault) =>
  fault.shapes.reduce((sum, s) => sum + (s.kind === 'box' ? s.width * s.height : NaN), 0);

test('around a box lies what the larger one has more, and no pixel twice', () => {
  const parts = around({ x: -10, y: -5, width: 100, height: 60 }, { x: 0, y: 0, width: 40, height: 40 });
  expect(parts.reduce((sum, b) => sum + b.width * b.height, 0)).toBe(100 * 60 - 40 * 40);
  expect(around({ x: 0, y: 0, width: 10, height: 10 }, { x: -1, y: -1, width: 20, height: 20 })).toEqual([]);
  expect(around({ x: 0, y: 0, width: 4, height: 4 }, { x: 9, y: 9, width: 2, height: 2 })).toHaveLength(1);
});

test('what a canvas adds is one gap, without margin; undo takes both back at once', () => {
  const { document, operations, label } = framed(EMPTY, { canvas: WIDE, turn: null });
  expect(label).toBe('Frame at 600 × 600');
  expect(canvasOf(document, SOURCE)).toEqual(WIDE);
  const [gap] = document.faults;
  expect(gap).toMatchObject({ kind: 'gap', state: 'open', margin: 0, feather: 0 });
  expect(areaOf(gap)).toBe(200 * 600);
  expect(applyOperations(document, invert(operations))).toEqual(EMPTY);
});

test('a fill of what a canvas adds leaves nothing of it to faults that reach into it, and takes nothing from them', () => {
  const wire = { op: 'add' as const, kind: 'strand' as const, points: [[200, 100], [450, 90]] as [number, number][], size: 5 }; // prettier-ignore
  const { document } = framed(EMPTY, { canvas: WIDE, turn: null });
  const open = { ...document.faults[0], id: 'wire', number: 2, kind: 'strand' as const, shapes: [wire] };
  const request = { ...fillRequestSchema.parse({ faultIds: ['00000000'] }), faultIds: [document.faults[0].id] };
  const { changes } = planFill({ ...document, faults: [...document.faults, open] }, request, SOURCE, 'creative');
  const [tries] = changes.flatMap(({ after }) => (after && 'tries' in after ? [after.tries] : []));
  expect(tries).toHaveLength(3);
  for (const { spec } of tries) expect(spec).toMatchObject({ light: true, avoid: [wire] });
  for (const { spec } of tries) expect(spec).not.toHaveProperty('spares');
});

test('another canvas takes the open gap along; one that is filled stays, and only what is new is a gap', () => {
  const first = framed(EMPTY, { canvas: WIDE, turn: null }).document;
  const again = framed(first, { canvas: { ...WIDE, x: -200, width: 700 }, turn: null }).document;
  expect(again.faults.map(areaOf)).toEqual([300 * 600]);
  const repair = { id: 'r', order: 1, tries: [] as Repair['tries'], faultIds: [first.faults[0].id] } as Repair;
  const filled = { ...first, faults: [{ ...first.faults[0], state: 'treated' as const }], repairs: [repair] };
  const wider = framed(filled, { canvas: { ...WIDE, x: -200, width: 700 }, turn: null }).document;
  expect(wider.faults).toHaveLength(2);
  expect(areaOf(wider.faults[1])).toBe(100 * 600);
  // Cut again, nothing is lost.
  const cut = framed(wider, { canvas: { x: 0, y: 100, width: 400, height: 400 }, turn: null }).document;
  expect(cut.faults.map((f) => f.id)).toEqual([filled.faults[0].id]);
  expect(cut.repairs).toEqual([repair]);
});

test('gaps within the source, as between frames joined, are its own: no canvas takes them away', () => {
  const shapes: Fault['shapes'] = [{ op: 'add', kind: 'outline', points: [[0, 0], [400, 0], [400, 30], [0, 9]] }]; // prettier-ignore
  const own = { id: 'own', number: 1, kind: 'gap', state: 'open', shapes, margin: 0, feather: 2 } as Fault;
  const cut = framed({ ...EMPTY, faults: [own] }, { canvas: { x: 0, y: 30, width: 400, height: 570 }, turn: null });
  expect(cut.document.faults).toEqual([own]);
  const wide = framed(cut.document, { canvas: WIDE, turn: null }).document;
  expect(wide.faults[0]).toEqual(own);
  expect(wide.faults.map((f) => f.number)).toEqual([1, 2]);
  expect(framed(wide, { canvas: null, turn: null }).document.faults).toEqual([own]);
  // Nor is it reached by drawing out what is beside a canvas.
  expect(() => edited(wide, { type: 'stretch', faultIds: ['own'], guard: [] })).toThrow('Only what a canvas adds');
});

test('gaps filled at the left and above leave the corner between them a gap', () => {
  const gap = (id: string, number: number, x: number, y: number, width: number, height: number) =>
    ({
      id,
      number,
      kind: 'gap',
      state: 'treated',
      shapes: [{ op: 'add', kind: 'box', x, y, width, height }],
    }) as unknown as Fault;
  const faults = [gap('left', 1, -100, 0, 100, 600), gap('above', 2, 0, -80, 400, 80)];
  const repairs = faults.map(
    (f, n) => ({ id: `r${n}`, order: n, tries: [] as Repair['tries'], faultIds: [f.id] }) as Repair,
  );
  const canvas = { x: -100, y: -80, width: 500, height: 680 };
  const { document } = framed({ ...EMPTY, faults, repairs }, { canvas, turn: null });
  expect(document.faults[2].shapes).toEqual([{ op: 'add', kind: 'box', x: -100, y: -80, width: 100, height: 80 }]);
});

test('turn and cut are set at once, kept as they are when the same, and taken out with the canvas', () => {
  const turn = { degrees: 1.5, about: [200, 300] as [number, number], crop: { x: 10, y: 12, width: 380, height: 570 } };
  const { document, label } = framed(EMPTY, { canvas: null, turn });
  expect(label).toBe('Frame at 380 × 570');
  expect(specsOf(document)).toEqual([{ step: 'turn', ...turn }]);
  expect(() => framed(document, { canvas: null, turn })).toThrow('framed like this already');
  const back = framed(framed(document, { canvas: WIDE, turn }).document, { canvas: null, turn: null });
  expect(back.document).toEqual(EMPTY);
});

test('a canvas or a cut that leaves nothing is refused', () => {
  expect(() => framed(EMPTY, { canvas: { x: 900, y: 0, width: 10, height: 10 }, turn: null })).toThrow(
    'Nothing of the picture',
  );
  const crop = { x: 5000, y: 0, width: 10, height: 10 };
  expect(() => framed(EMPTY, { canvas: null, turn: { degrees: 2, about: [0, 0], crop } })).toThrow('in this cut');
});

const SUBJECT = { op: 'add' as const, kind: 'box' as const, x: 150, y: 100, width: 80, height: 400 };
function edited(document: PictureDocument, edit: Edit) {
  const { label, changes } = planEdit(document, edit, SOURCE, [], {}, () => `row-${named++}`);
  const operations = operationsOf(changes);
  return { label, operations, document: applyOperations(document, operations) };
}

test('a gap is reached by stretching: on a layer of its own on top, from what is there to the canvas', () => {
  const { document } = framed(EMPTY, { canvas: WIDE, turn: null });
  const layers = [{ id: 'above', name: 'Wires', order: 4, opacity: 1, visible: true }];
  const before = { ...document, layers };
  const done = edited(before, { type: 'stretch', faultIds: [document.faults[0].id], guard: [SUBJECT] });
  expect(done.label).toBe('Stretch the background');
  const [repair] = done.document.repairs;
  expect(repair.tries[0].spec).toMatchObject({
    method: 'stretch',
    from: { x: 0, width: 400 },
    onto: WIDE,
    canvas: WIDE,
  });
  const layer = done.document.layers.find((l) => l.id === repair.layerId)!;
  expect(layer).toMatchObject({ name: 'Stretch' });
  expect(layer.order).toBeGreaterThan(4);
  expect(done.document.faults[0].state).toBe('treated');
  expect(applyOperations(done.document, invert(done.operations))).toEqual(before);
});

test('a stretch takes the place of what filled the same gap, and undo brings that back', () => {
  const { document } = framed(EMPTY, { canvas: WIDE, turn: null });
  const [gap] = document.faults;
  const other = { id: 'other', layerId: 'low', faultIds: ['speck'], order: 2, tries: [], chosen: '' };
  const before = {
    ...document,
    layers: [{ id: 'low', name: 'Gaps', order: 1, opacity: 1, visible: true }],
    repairs: [{ ...other, id: 'fill', faultIds: [gap.id] }, other].map((r) => ({ ...r, strength: 1, visible: true })),
  };
  const done = edited(before, { type: 'stretch', faultIds: [gap.id], guard: [SUBJECT] });
  expect(done.document.repairs.map((r) => r.id).slice(0, -1)).toEqual(['other']);
  expect(done.document.repairs[1].tries[0].spec.method).toBe('stretch');
  expect(
    applyOperations(done.document, invert(done.operations))
      .repairs.map((r) => r.id)
      .sort(),
  ).toEqual(['fill', 'other']);
});

test('what was cut on one side is not drawn from, and the side stays as it is', () => {
  const canvas = { x: 40, y: 0, width: 500, height: 600 };
  const { document } = framed(EMPTY, { canvas, turn: null });
  const done = edited(document, { type: 'stretch', faultIds: [document.faults[0].id], guard: [SUBJECT] });
  expect(done.document.repairs[0].tries[0].spec).toMatchObject({ from: { x: 40, width: 360 }, onto: canvas });
});

test('a stretch is made for one canvas: another one takes it away with its gap, the same one leaves it', () => {
  const { document } = framed(EMPTY, { canvas: WIDE, turn: null });
  const done = edited(document, { type: 'stretch', faultIds: [document.faults[0].id], guard: [SUBJECT] }).document;
  const turned = framed(done, { canvas: WIDE, turn: { degrees: 1, about: [200, 300], crop: WIDE } });
  expect(turned.document.repairs).toHaveLength(1);
  const back = framed(done, { canvas: null, turn: null });
  expect(back.document).toMatchObject({ faults: [], repairs: [], layers: [] });
  expect(applyOperations(back.document, invert(back.operations))).toEqual(done);
  const wider = framed(done, { canvas: { ...WIDE, x: -200, width: 700 }, turn: null }).document;
  expect(wider.repairs).toEqual([]);
  expect(wider.faults.map((f) => [f.state, areaOf(f)])).toEqual([['open', 300 * 600]]);
});

test('what is treated after a stretch lies over it', () => {
  const { document } = framed(EMPTY, { canvas: WIDE, turn: null });
  const layers = [{ id: 'wires', name: 'Wires', order: 1, opacity: 1, visible: true }];
  const before = { ...document, layers };
  const box = { op: 'add' as const, kind: 'box' as const, x: 20, y: 20, width: 30, height: 30 };
  const marked = (d: PictureDocument) => edited(d, { type: 'addFault', kind: 'stain', shapes: [box] }).document;
  const layerOfLift = (d: PictureDocument) => {
    const fault = d.faults.find((f) => f.kind === 'stain')!;
    const done = edited(d, { type: 'lift', faultIds: [fault.id], layerId: null }).document;
    return done.layers.find((l) => l.id === done.repairs.find((r) => r.faultIds.includes(fault.id))!.layerId)!;
  };
  const named = { ...before, layers: [{ ...layers[0], name: layerOfLift(marked(before)).name }] };
  expect(layerOfLift(marked(named)).id).toBe('wires');
  const stretched = edited(named, { type: 'stretch', faultIds: [document.faults[0].id], guard: [SUBJECT] }).document;
  const layer = layerOfLift(marked(stretched));
  expect(layer.id).not.toBe('wires');
  expect(layer.order).toBeGreaterThan(stretched.layers.find((l) => l.name === 'Stretch')!.order);
});

test('only gaps are stretched over, and only where there is background to draw out', () => {
  const { document } = framed(EMPTY, { canvas: WIDE, turn: null });
  const gap = document.faults[0];
  const other = { ...document, faults: [{ ...gap, kind: 'object' as const }] };
  const of = (d: PictureDocument, x: number) =>
    edited(d, { type: 'stretch', faultIds: [gap.id], guard: [{ ...SUBJECT, x }] });
  expect(() => of(other, 150)).toThrow(/Choose a gap/);
  expect(() => of(document, -10)).toThrow(/nothing to draw out at the left.*Fill it instead/);
});

test('drawn out as far as a part of the canvas, the rest is a gap of its own; another canvas takes both away, undo brings both', () => {
  const { document } = framed(EMPTY, { canvas: WIDE, turn: null });
  const onto = { x: -30, y: 0, width: 464, height: 600 };
  const ids = [document.faults[0].id];
  const { document: drawn, operations } = edited(document, { type: 'stretch', faultIds: ids, guard: [SUBJECT], onto });
  expect(drawn.repairs[0].tries[0].spec).toMatchObject({ method: 'stretch', from: { x: 0, width: 400 }, onto });
  expect(drawn.faults.map((f) => [f.state, areaOf(f)])).toEqual([
    ['treated', 64 * 600],
    ['open', (200 - 64) * 600],
  ]);
  expect(applyOperations(drawn, invert(operations))).toEqual(document);
  const fill = { ...drawn.repairs[0], id: 'fill', faultIds: [drawn.faults[1].id], tries: [], chosen: '', order: 9 };
  const filled = { ...drawn, repairs: [...drawn.repairs, fill] };
  const back = framed(filled, { canvas: null, turn: null });
  expect(back.document).toMatchObject({ faults: [], repairs: [], layers: [] });
  expect(applyOperations(back.document, invert(back.operations))).toEqual(filled);
  // It lies between the picture and the canvas, and adds to the picture.
  for (const wrong of [
    { ...onto, x: -200 },
    { ...onto, x: 10 },
    { x: 0, y: 0, ...SOURCE },
  ])
    expect(() => edited(document, { type: 'stretch', faultIds: ids, guard: [], onto: wrong })).toThrow(/between both/);
});

test('a canvas of 156 megapixels is planned in a moment', () => {
  const document: PictureDocument = { faults: [], layers: [], repairs: [], steps: [] };
  const canvas = { x: -5000, y: -3000, width: 13_000, height: 12_000 };
  const started = performance.now();
  const { changes } = planEdit(document, { type: 'reframe', canvas, turn: null }, { width: 3000, height: 2000 });
  // It took half a minute while a distance transform was made of it.
  expect(performance.now() - started).toBeLessThan(150);
  expect(changes.map((c) => c.kind)).toEqual(['step', 'fault']);
});
