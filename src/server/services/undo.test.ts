import { randomiser } from '../../../bench/planted.ts';
import type { Edit } from '../../contract/api.ts';
import { editSchema } from '../../contract/api.ts';
import type { HandSpec, PictureDocument } from '../../contract/document.ts';
import type { Point, Shape } from '../../core/mask/shapes.ts';
import { planEdit } from '../../document/edits/plan-edit.ts';
import { planFill } from '../../document/edits/fills.ts';

const SIZE = { width: 900, height: 700 };

type Changes = ReturnType<typeof planEdit>['changes'];

/** The document after changes, or with `back` before them, in a form that does not depend on the order of rows. */
function applied(document: PictureDocument, changes: Changes, back = false): PictureDocument {
  const next = {
    faults: [...document.faults],
    layers: [...document.layers],
    repairs: [...document.repairs],
    steps: [...document.steps],
  };
  for (const change of back ? [...changes].reverse() : changes) {
    const list = next[`${change.kind}s` as const] as Array<{ id: string }>;
    const at = list.findIndex((row) => row.id === change.id);
    if (at >= 0) list.splice(at, 1);
    const doc = back ? change.before : change.after;
    if (doc) list.push(doc);
  }
  const byId = (a: { id: string }, b: { id: string }) => (a.id < b.id ? -1 : 1);
  next.faults.sort(byId);
  next.layers.sort(byId);
  next.repairs.sort(byId);
  return next;
}

/** Something an editor might do next, by chance; null when it is not possible now. */
function something(document: PictureDocument, random: () => number): Edit | null {
  const pick = <T>(list: T[]): T | undefined => list[Math.floor(random() * list.length)];
  const place = (): Point => [Math.round(random() * 900), Math.round(random() * 700)];
  const dab = (): Shape[] => [{ op: 'add', kind: 'brush', points: [place()], size: 4 + Math.round(40 * random()) }];
  const fault = pick(document.faults);
  const layer = pick(document.layers);
  const repair = pick(document.repairs);
  const stroke = {
    points: [place(), place()].map(([x, y]): [number, number, number] => [x, y, 1]),
    size: 20,
    hardness: 0.5,
    flow: 1,
    opacity: 1,
    spacing: 0.2,
    pressure: 'none' as const,
  };
  const copy: HandSpec = {
    method: 'copy',
    strokes: [stroke],
    donor: { from: [10, 10], at: [40, 60], turn: 0, scale: 1, mirror: 'none', travels: true },
  };
  const edits: Array<() => Edit | null> = [
    () => ({ type: 'addFault', kind: 'speck', shapes: dab() }),
    () => ({
      type: 'addFaults',
      faults: [
        { kind: 'mesh', shapes: dab() },
        { kind: 'object', shapes: dab() },
      ],
      replaces: fault ? [fault.id] : [],
    }),
    () => fault && { type: 'changeFault', id: fault.id, set: { margin: Math.round(9 * random()), shapes: dab() } },
    () => fault && { type: 'changeFault', id: fault.id, set: { state: 'treated' } },
    () => fault && { type: 'removeFault', id: fault.id },
    () => ({ type: 'addLayer', name: `Layer ${Math.floor(random() * 100)}` }),
    () => layer && { type: 'changeLayer', id: layer.id, set: { opacity: random(), visible: random() < 0.5 } },
    () => layer && { type: 'moveLayer', id: layer.id, to: Math.floor(random() * document.layers.length) },
    () => (layer && random() < 0.3 ? { type: 'removeLayer', id: layer.id } : null),
    () => layer && { type: 'duplicateLayer', id: layer.id },
    () => layer && { type: 'mergeLayer', id: layer.id },
    () => repair && { type: 'changeRepair', id: repair.id, set: { strength: random(), layerId: layer!.id } },
    () => repair && { type: 'setStrength', ids: document.repairs.map((r) => r.id), strength: random() },
    () => (repair && random() < 0.3 ? { type: 'removeRepair', id: repair.id } : null),
    () => ({ type: 'placeRepair', spec: copy, faultIds: [], mark: { kind: 'object', shapes: dab() }, layerId: null }),
    () => (document.layers.length ? { type: 'bringBack', shapes: dab(), feather: 3 } : null),
  ].map((make) => make as () => Edit | null);
  return pick(edits)!() ?? null;
}

test.each([1, 2, 3, 4, 5, 6])('whatever is done can be undone step by step and done again, %i', (seed) => {
  const random = randomiser(seed);
  let document = applied({ faults: [], layers: [], repairs: [], steps: [] }, []);
  const history: Array<{ before: PictureDocument; changes: Changes; after: PictureDocument }> = [];
  const done = new Set<string>();
  for (let n = 0; n < 400 && history.length < 150; n++) {
    let changes: Changes;
    const edit = something(document, random);
    try {
      if (edit && random() < 0.85) {
        const { type } = edit;
        ({ changes } = planEdit(document, edit, SIZE));
        done.add(type);
      } else if (document.faults.length) {
        const fault = document.faults[Math.floor(random() * document.faults.length)];
        const request = {
          faultIds: [fault.id],
          layerId: null,
          repairId: null,
          donorArea: [],
          barred: [],
          settings: {},
        };
        ({ changes } = planFill(document, request, SIZE, 'creative'));
        done.add('fill');
      } else continue;
    } catch (error) {
      // What is refused changes nothing and says why.
      expect((error as Error).message.length).toBeGreaterThan(10);
      continue;
    }
    const before = document;
    document = applied(document, changes);
    history.push({ before, changes, after: document });
    // Nothing points at what is gone.
    const layers = new Set(document.layers.map((l) => l.id));
    const faults = new Set(document.faults.map((f) => f.id));
    for (const r of document.repairs) {
      expect(layers.has(r.layerId)).toBe(true);
      expect(r.faultIds.every((id) => faults.has(id))).toBe(true);
      expect(r.tries.some((t) => t.id === r.chosen)).toBe(true);
    }
    expect(new Set(document.faults.map((f) => f.number)).size).toBe(document.faults.length);
  }
  expect(history.length).toBeGreaterThan(60);
  expect(done.size).toBeGreaterThan(10);
  for (const step of [...history].reverse()) {
    document = applied(document, step.changes, true);
    expect(document).toEqual(step.before);
  }
  for (const step of history) {
    document = applied(document, step.changes);
    expect(document).toEqual(step.after);
  }
});

describe('a completed mesh', () => {
  const dab = (x: number, y: number): Shape[] => [{ op: 'add', kind: 'brush', points: [[x, y]], size: 10 }];

  test('takes the place of open strands, not of treated ones, and of no others', () => {
    let document: PictureDocument = { faults: [], layers: [], repairs: [], steps: [] };
    for (const x of [100, 200, 300])
      document = applied(
        document,
        planEdit(document, { type: 'addFault', kind: 'strand', shapes: dab(x, 100) }, SIZE).changes,
      );
    const byNumber = (n: number) => document.faults.find((f) => f.number === n)!;
    const request = { layerId: null, repairId: null, donorArea: [], barred: [], settings: {} };
    document = applied(
      document,
      planFill(document, { ...request, faultIds: [byNumber(2).id] }, SIZE, 'creative').changes,
    );
    const faults = [
      { kind: 'mesh' as const, shapes: dab(400, 300) },
      { kind: 'object' as const, shapes: dab(420, 300) },
    ];
    const replaces = [byNumber(1).id, byNumber(2).id];
    const edit = planEdit(document, { type: 'addFaults', faults, replaces }, SIZE);
    expect(edit.label).toBe('Mark faults 4 to 5');
    document = applied(document, edit.changes);
    const left = document.faults.sort((a, b) => a.number - b.number).map((f) => [f.number, f.kind]);
    expect(left).toEqual([
      [2, 'strand'],
      [3, 'strand'],
      [4, 'mesh'],
      [5, 'object'],
    ]);
  });
});

describe('edits from outside', () => {
  const brush = [{ op: 'add', kind: 'brush', points: [[5, 5]], size: 9 }];
  test.each([
    ['no type', { shapes: brush }],
    ['an unknown type', { type: 'paint', shapes: brush }],
    ['no shapes', { type: 'addFault', kind: 'speck', shapes: [] }],
    ['an unknown kind', { type: 'addFault', kind: 'ghost', shapes: brush }],
    ['a size below nothing', { type: 'addFault', kind: 'speck', shapes: [{ ...brush[0], size: -3 }] }],
    ['a place that is no number', { type: 'addFault', kind: 'speck', shapes: [{ ...brush[0], points: [[NaN, 3]] }] }],
    [
      'an endless list',
      { type: 'addFaults', faults: Array.from({ length: 2_001 }, () => ({ kind: 'speck', shapes: brush })) },
    ],
    ['more strength than there is', { type: 'setStrength', ids: ['a'], strength: 1.2 }],
    ['an opacity below 0', { type: 'changeLayer', id: 'a', set: { opacity: -0.1 } }],
    ['no name', { type: 'addLayer', name: '   ' }],
    ['a margin beyond all bounds', { type: 'changeFault', id: 'a', set: { margin: 5_000 } }],
    ['a half layer', { type: 'moveLayer', id: 'a', to: 1.5 }],
  ])('%s is refused', (_, edit) => {
    expect(editSchema.safeParse(edit).success).toBe(false);
  });

  test('what nobody asked for is left out', () => {
    const edit = editSchema.parse({ type: 'addFault', kind: 'speck', shapes: brush, id: 'mine', number: 7 });
    expect(Object.keys(edit).sort()).toEqual(['kind', 'shapes', 'type']);
  });
});
