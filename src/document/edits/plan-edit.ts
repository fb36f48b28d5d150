import type { Edit, SingleEdit } from '../../contract/api.ts';
import type { PictureDocument } from '../../contract/document.ts';
import { newId } from '../../contract/ids.ts';
import { addStrokes, bringBack, changeSpec, placeRepair } from './by-hand.ts';
import { addFault, addFaults, changeFault, removeFault } from './faults.ts';
import { addLayer, changeLayer, duplicateLayer, mergeLayer, moveLayer, removeLayer } from './layers.ts';
import type { Plan, PlannedEdit, Planning } from './parts.ts';
import { changeFills, changeRepair, removeRepair, renew, setStrength } from './repairs.ts';
import { stretch } from './stretch.ts';
import { applyOperations, operationsOf } from '../operations.ts';
import { marksOf } from './marks.ts';
import { withNeighbours } from './neighbours.ts';
import { reframe } from './frame.ts';
import { removeStep, setStep } from './steps.ts';
import { lift } from './treat.ts';
import { canvasOf } from '../canvas.ts';

/** Several edits as one: each is worked out over what those before it changed. */
const all: Plan<'all'> = (document, { edits }, planning) => {
  let grown = document;
  let advised = 0;
  const planned = edits.map((edit) => {
    const marks = marksOf(grown, edit).length;
    const advice = planning.advice.slice(advised, advised + marks);
    advised += marks;
    const plan = EDITS[edit.type] as Plan<SingleEdit['type']>;
    const one = plan(grown, edit, { ...planning, advice });
    grown = applyOperations(grown, operationsOf(one.changes));
    return one;
  });
  const labels = new Set(planned.map((p) => p.label.replace(/ \d+\b/, '')));
  const label = planned.length === 1 ? planned[0].label : `${[...labels][0]}, ${planned.length} at once`;
  return { label, changes: planned.flatMap((p) => p.changes) };
};

/** Every edit, one line each; its shape is in the contract. */
const EDITS: { [T in Edit['type']]: Plan<T> } = {
  addFault,
  addFaults,
  changeFault,
  removeFault,
  addLayer,
  changeLayer,
  moveLayer,
  removeLayer,
  duplicateLayer,
  mergeLayer,
  changeRepair,
  removeRepair,
  setStrength,
  changeFills,
  renew,
  placeRepair,
  lift,
  addStrokes,
  changeSpec,
  bringBack,
  setStep,
  removeStep,
  reframe,
  stretch,
  all,
};

/** Works out what an edit changes, without changing anything. @throws Refused */
export function planEdit(
  document: PictureDocument,
  edit: Edit,
  source: Planning['source'],
  advice: Planning['advice'] = [],
  habits: Planning['habits'] = {},
  name: Planning['name'] = newId,
): PlannedEdit {
  // The registry keeps type and edit together.
  const plan = EDITS[edit.type] as Plan<Edit['type']>;
  return withNeighbours(
    document,
    plan(document, edit, { source, area: canvasOf(document, source), advice, habits, name }),
  );
}
