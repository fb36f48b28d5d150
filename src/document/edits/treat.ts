import { fillRequestSchema } from '../../contract/api.ts';
import type { Change, Fault, Layer, PictureDocument, Repair } from '../../contract/document.ts';
import { newId } from '../../contract/ids.ts';
import { Refused } from '../../contract/refused.ts';
import { crossingFirst } from '../../core/plan/order.ts';
import { coverWithin } from '../../core/mask/shapes.ts';
import { grow } from '../../core/raster/raster.ts';
import { dated } from '../../core/repair/registry.ts';
import type { LiftSpec } from '../../core/repair/spec.ts';
import { fieldOf, notedCanvas } from '../canvas.ts';
import { chosenFaults, namesOf, planFill, refusedByPolicy, type Policy } from './fills.ts';
import { layerFor } from './layers.ts';
import { boundsOf, neighboursOf, withNeighbours } from './neighbours.ts';
import { lostOf, methodOf } from './proposed.ts';
import type { Plan, PlannedEdit, Size } from './parts.ts';
import { newRepair, nowTreated } from './repairs.ts';

/** px around an outline that a lift looks at. */
const LIFT_REACH = 200;

/** Works out a lift as an edit: a new repair over the outlines of faults. */
function planLift(
  document: PictureDocument,
  { faultIds, layerId }: { faultIds: string[]; layerId: string | null },
  source: Size,
  name: () => string = newId,
): PlannedEdit & { repairIds: string[] } {
  const faults = chosenFaults(document, faultIds);
  const cover = faults.flatMap((f) => f.shapes);
  const reach = grow(coverWithin(cover, 0, 0, fieldOf(document, source)), LIFT_REACH);
  const { ids, shapes } = neighboursOf(document, faultIds, reach);
  const spec = dated<LiftSpec>({ method: 'lift', cover, amount: 1, avoid: shapes }, notedCanvas(document));
  const changes: Change[] = [];
  const layer = layerFor(document, layerId, faults, changes, name);
  const tryId = name();
  const repair = newRepair(document, {
    id: name(),
    layerId: layer.id,
    faultIds,
    tries: [{ id: tryId, spec }],
    chosen: tryId,
    strength: 1,
    ...(ids.length && { leftOut: ids }),
  });
  changes.push({ kind: 'repair', id: repair.id, before: null, after: repair }, ...nowTreated(faults));
  const repairIds = [repair.id];
  // What cannot be read any more is filled over the rest, from what lies beside it as it is then.
  const grown = { ...document, repairs: [...document.repairs, repair], layers: [...document.layers] };
  if (!grown.layers.includes(layer)) grown.layers.push(layer);
  for (const fault of faults) {
    const { id } = fault;
    const lost = lostOf(fault);
    if (!lost.length) continue;
    const request = { ...fillRequestSchema.parse({ faultIds: [id] }), layerId: layer.id };
    const part = planFill(grown, request, source, 'creative', 1, { take: [], rest: [], only: lost }, name);
    repairIds.push(part.repairId);
    changes.push(...part.changes.filter((c) => c.kind === 'repair'));
  }
  return { label: `Lift ${namesOf(faults)}`, changes, repairIds };
}

/** Works out the lift of a fault, where the job's policy lets it go. @throws Refused */
function lifted(document: PictureDocument, fault: Fault, source: Size, policy: Policy) {
  refusedByPolicy(policy, [fault]);
  return planLift(document, { faultIds: [fault.id], layerId: null }, source);
}

/** Works out the fill of a fault with its proposed try. @throws Refused */
function filled(document: PictureDocument, id: string, source: Size, policy: Policy) {
  const fill = planFill(document, fillRequestSchema.parse({ faultIds: [id] }), source, policy, 1);
  return { ...fill, repairIds: [fill.repairId] };
}

/** Takes off what lies over the picture at some faults. */
export const lift: Plan<'lift'> = (document, edit, { source, name }) => planLift(document, edit, source, name);

/**
 * Works out repairs of many faults as one edit: each open one gets a repair of its own as it was proposed, on the layer of its
 * kind. None of them samples another of them, however they are ordered, since all are open when each is worked out.
 */
export function planTreatments(
  document: PictureDocument,
  faultIds: string[],
  source: Size,
  policy: Policy,
): PlannedEdit & { repairIds: string[] } {
  const grown: PictureDocument = { ...document, layers: document.layers.slice(), repairs: document.repairs.slice() };
  const treated = new Set(faultIds);
  const changes: Change[] = [];
  const repairIds: string[] = [];
  const open = document.faults.filter((f) => treated.has(f.id) && f.state === 'open');
  const asked = new Map(faultIds.map((id, n) => [id, n]));
  const inTurn = open
    .sort((a, b) => asked.get(a.id)! - asked.get(b.id)!)
    .map((f) => ({ ...f, box: boundsOf(f), fault: f }));
  // What is lifted comes beneath: what is filled then goes by what was brought back.
  const lifts = inTurn.filter(({ fault }) => methodOf(fault) === 'lift');
  const fills = inTurn.filter(({ fault }) => methodOf(fault) !== 'lift');
  for (const { id, fault } of [...lifts, ...crossingFirst(fills)]) {
    const one = methodOf(fault) === 'lift' ? lifted(grown, fault, source, policy) : filled(grown, id, source, policy);
    repairIds.push(...one.repairIds);
    for (const change of one.changes) {
      if (change.kind === 'layer') grown.layers.push(change.after as Layer);
      if (change.kind === 'repair') {
        // What is treated along with it will not be open again by that.
        const { leftOut, ...repair } = change.after as Repair;
        const rest = leftOut?.filter((other) => !treated.has(other)) ?? [];
        change.after = rest.length ? { ...repair, leftOut: rest } : repair;
        grown.repairs.push(change.after);
      }
      changes.push(change);
    }
  }
  if (!repairIds.length) throw new Refused('None of these faults is open. Choose open ones.', 409);
  const many = repairIds.length > 1 ? `${repairIds.length} faults` : 'a fault';
  return withNeighbours(document, { label: `Treat ${many}`, changes, repairIds });
}
