import { editSchema, type Edit } from '../../contract/api.ts';
import type { PictureDocument } from '../../contract/document.ts';
import type { StripSpec } from '../../core/repair/spec.ts';
import { PROFILES } from '../../core/repair/strip/profile.ts';
import { disclosureOf } from '../../record/words.ts';
import { fittingSourceType, sentenceFor } from '../../record/build.ts';
import { applyOperations, invert, operationsOf } from '../operations.ts';
import { refusedStrip } from './fills.ts';
import { planEdit } from './plan-edit.ts';
import { isStrip } from './repairs.ts';

const SOURCE = { width: 400, height: 600 };
const EMPTY: PictureDocument = { faults: [], layers: [], repairs: [], steps: [] };
let named = 0;
function edited(document: PictureDocument, edit: Edit) {
  const { label, changes } = planEdit(document, edit, SOURCE, [], {}, () => `row-${named++}`);
  const operations = operationsOf(changes);
  return { label, operations, document: applyOperations(document, operations) };
}
const spec: StripSpec = {
  method: 'strip',
  corners: [
    [0, 400],
    [400, 410],
    [400, 440],
    [0, 440],
  ],
  profile: PROFILES['rounded board'].map(([t, d]) => [t, d]),
  relief: 1,
  stops: 0.3,
  shadow: 0.7,
  guard: [{ op: 'add', kind: 'box', x: 100, y: 300, width: 60, height: 200 }],
};
const lay: Edit = { type: 'placeRepair', spec, faultIds: [], layerId: null };

test('a strip is a repair on a layer that treats no fault; its settings change, undo brings back what was', () => {
  const laid = edited(EMPTY, lay);
  expect(laid.label).toBe('Lay a strip');
  const [repair] = laid.document.repairs;
  expect(isStrip(repair)).toBe(true);
  expect(repair.faultIds).toEqual([]);
  expect(laid.document.layers).toHaveLength(1);
  expect(repair.tries[0].spec).toMatchObject({ method: 'strip', version: 1, corners: spec.corners });
  const changed = edited(laid.document, { type: 'changeSpec', id: repair.id, spec: { ...spec, stops: -1 } });
  expect(changed.label).toBe('Change settings of strip');
  expect(changed.document.repairs[0].tries[0].spec).toMatchObject({ stops: -1 });
  expect(applyOperations(changed.document, invert(changed.operations))).toEqual(laid.document);
  expect(applyOperations(laid.document, invert(laid.operations))).toEqual(EMPTY);
  const gone = edited(laid.document, { type: 'removeRepair', id: repair.id });
  expect(gone.document.repairs).toEqual([]);
});

test('what comes in is looked at: four corners, a profile that goes downwards, shares that are shares', () => {
  expect(editSchema.safeParse(lay).success).toBe(true);
  const wrong: Array<Partial<Record<keyof StripSpec, unknown>>> = [
    { corners: spec.corners.slice(0, 3) },
    { profile: [[0, 0]] },
    { profile: [[0, 0], [0.6, 0.1], [0.4, 0.1], [1, 0]] }, // prettier-ignore
    { profile: [[0, 0], [1, 3]] }, // prettier-ignore
    { relief: 2 },
    { stops: 40 },
    { shadow: -0.1 },
  ];
  for (const set of wrong) expect(editSchema.safeParse({ ...lay, spec: { ...spec, ...set } }).success).toBe(false);
});

test('it is said that it was not there, by itself and beside what was repaired', () => {
  const { document } = edited(EMPTY, lay);
  expect(sentenceFor(document)).toBe('A strip that was not there was drawn in. No generative model was used.');
  expect(fittingSourceType(document)).toBe('humanEdits');
  expect(disclosureOf([{ kind: 'speck' }], 0, 2)).toMatch(
    /^2 strips that were not there were drawn in\. Damage was repaired: 1 speck\./,
  );
  expect(disclosureOf([], 3, 1)).toMatch(/^This picture was joined from 3 frames\. A strip that was not there/);
  // Hidden it is not seen, and nothing is said of it.
  const hidden = { ...document, repairs: document.repairs.map((r) => ({ ...r, visible: false })) };
  expect(sentenceFor(hidden)).toBe('Nothing in this picture was changed.');
});

test('where what a picture shows must stay none is laid, and everything else goes on', () => {
  expect(() => refusedStrip('documentary', 'strip')).toThrow(/must not be drawn in/);
  expect(() => refusedStrip('restoration', 'strip')).toThrow(/restoration job/);
  expect(() => refusedStrip('creative', 'strip')).not.toThrow();
  expect(() => refusedStrip('documentary', 'copy')).not.toThrow();
});
