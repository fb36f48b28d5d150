import type { Edit } from '../../contract/api.ts';
import type { PictureDocument } from '../../contract/document.ts';
import { newId } from '../../contract/ids.ts';
import { addStrokes, bringBack, changeSpec, placeRepair } from './by-hand.ts';
import { addFault, addFaults, changeFault, removeFault } from './faults.ts';
import { addLayer, changeLayer, duplicateLayer, mergeLayer, moveLayer, removeLayer } from './layers.ts';
import type { Plan, PlannedEdit, Planning } from './parts.ts';
import { changeRepair, removeRepair, renew, setStrength } from './repairs.ts';
import { stretch } from './stretch.ts';
import { withNeighbours } from './neighbours.ts';
import { reframe } from './frame.ts';
import { removeStep, setStep } from './steps.ts';
import { lift } from './treat.ts';
import { canvasOf } from '../canvas.ts';

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
