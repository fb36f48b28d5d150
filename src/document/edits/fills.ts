import { type FillRequest } from '../../contract/api.ts';
import {
  type Change,
  type Fault,
  type Layer,
  type PictureDocument,
  type Repair,
  type Try,
} from '../../contract/document.ts';
import { coverWithin, type Shape } from '../../core/mask/shapes.ts';
import { kindFacts } from '../../core/faults/kinds.ts';
import { mayRepair } from '../../core/plan/policy.ts';
import { measureFault } from '../../core/plan/cover.ts';
import { grow, intersect, type Box } from '../../core/raster/raster.ts';
import {
  DEFAULT_FILL,
  depthOfStrands,
  isPredicted,
  LAID_OUT,
  reachOf,
  stylesFor,
  type FillStyle,
} from '../../core/repair/fill/settings.ts';
import { layoutSize } from '../../core/repair/fill/fill-region.ts';
import { versionOf } from '../../core/repair/registry.ts';
import type { FillSpec } from '../../core/repair/spec.ts';
import type { POLICIES } from '../../contract/studio.ts';
import { newId } from '../../contract/ids.ts';
import { Refused } from '../../contract/refused.ts';
import { canvasOf, fieldOf, notedCanvas } from '../canvas.ts';
import { added, changed, find, isOwnGap, type PlannedEdit, type Size } from './parts.ts';
import { layerFor } from './layers.ts';
import { neighboursOf } from './neighbours.ts';
import { edgesOf, methodOf } from './proposed.ts';
import { newRepair, nowTreated } from './repairs.ts';

export type Policy = (typeof POLICIES)[number];

/** Small stable number from text, so that seeds differ between repairs and are the same on every replay. */
function seedFrom(text: string): number {
  let h = 2166136261;
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 16777619);
  return (h >>> 0) % 0x7fffffff;
}

/** @throws Refused with the reason when a job's policy forbids a repair */
export function refusedByPolicy(policy: Policy, faults: Array<{ number?: number; kind: Fault['kind'] }>): void {
  const content = faults.find((f) => !mayRepair(policy, f.kind));
  if (!content) return;
  throw new Refused(
    `This is a documentary job: only dust, scratches and marks may go, and ${content.number ? `fault ${content.number} (${content.kind})` : `this (${content.kind})`} is part of the scene. Change what may be changed in the job first.`,
    409,
  );
}

/** @throws Refused where a strip, which was not there, may not be laid into a job's pictures */
export function refusedStrip(policy: Policy, method: string): void {
  if (method !== 'strip' || policy === 'creative') return;
  throw new Refused(
    `This is a ${policy} job: a strip that was not there must not be drawn in. Change what may be changed in the job first.`,
    409,
  );
}

/**
 * A restoration fills over nothing that can still be read unless somebody says so twice.
 * @throws Refused with what would be lost
 */
function refusedWhileLegible(policy: Policy, faults: readonly Fault[], anyway: boolean | undefined): void {
  const legible = faults.find((f) => methodOf(f) === 'lift');
  if (policy !== 'restoration' || anyway || !legible) return;
  throw new Refused(
    `What lies under fault ${legible.number} (${legible.kind}) can still be read, and this job is to bring back the original: Lift keeps it. To paint over it all the same, press Fill once more.`,
    409,
  );
}

/** A part of a fault's cover, as what is taken from the whole, and what of the cover is still to be filled after it. */
interface Portion {
  take: Shape[];
  rest: Shape[];
  /** what is covered in place of the fault's own cover */
  only?: Shape[];
}

/** px beyond every picture. */
const FAR = 60_000;

/** Strips across the longer side of a cover, from one end to the other. */
export function portionsOf(shapes: Shape[], count: number, area: Box): Portion[] {
  const { bounds } = measureFault(shapes, area);
  const wide = bounds.width >= bounds.height;
  const [from, length] = wide ? [bounds.x, bounds.width] : [bounds.y, bounds.height];
  const at = (n: number) => Math.round(from + (length * n) / count);
  // Strips reach far beyond the cover, so that one that is grown later stays divided where it was.
  const strip = (a: number, b: number): Shape =>
    wide
      ? { op: 'take', kind: 'box', x: a, y: -FAR, width: b - a, height: 3 * FAR }
      : { op: 'take', kind: 'box', x: -FAR, y: a, width: 3 * FAR, height: b - a };
  return Array.from({ length: count }, (_, n) => {
    const take: Shape[] = [];
    if (n > 0) take.push(strip(-FAR, at(n)));
    if (n < count - 1) take.push(strip(at(n + 1), 2 * FAR));
    return { take, rest: n < count - 1 ? [...shapes, strip(-FAR, at(n + 1))] : [] };
  });
}

/**
 * Works out a fill of a large fault in portions: a repair for each, one above another, so that each later one samples what the
 * earlier ones made, and none samples what is still to be filled. Common practice for large objects.
 */
export function planPortions(
  document: PictureDocument,
  request: FillRequest,
  source: Size,
  policy: Policy,
): PlannedEdit & { repairIds: string[] } {
  const shapes = document.faults.find((f) => f.id === request.faultIds[0])?.shapes ?? [];
  if (request.faultIds.length > 1) throw new Refused('Only one fault at a time is filled in portions.', 409);
  const grown: PictureDocument = { ...document, layers: document.layers.slice(), repairs: document.repairs.slice() };
  const changes: Change[] = [];
  const repairIds: string[] = [];
  for (const portion of portionsOf(shapes, request.portions, canvasOf(document, source))) {
    const one = planFill(grown, request, source, policy, 1, portion);
    repairIds.push(one.repairId);
    for (const change of one.changes) {
      // The fault is treated once, by the first of them.
      if (change.kind === 'fault' && repairIds.length > 1) continue;
      changes.push(change);
      if (change.kind === 'layer') grown.layers.push(change.after as Layer);
      if (change.kind === 'repair') grown.repairs.push(change.after as Repair);
    }
  }
  const [fault] = document.faults.filter((f) => f.id === request.faultIds[0]);
  return { label: `Fill fault ${fault.number} in ${request.portions} portions`, changes, repairIds };
}

/**
 * Style of further tries. Predictions and layouts come out of a computation without chance: what is made after them searches
 * donors, which finds others with every seed.
 */
function styleAgain(style: FillStyle, n: number): FillStyle {
  if (isPredicted(style)) return (['textured', 'first'] as const)[n];
  return style === 'textured' ? style : (['near', 'far', 'lines'] as const)[n];
}

export const namesOf = (faults: readonly Fault[]) =>
  faults.length === 1 ? `fault ${faults[0].number}` : `${faults.length} faults`;

/** @throws Refused when one is not there any more */
export function chosenFaults({ faults }: PictureDocument, ids: readonly string[]): Fault[] {
  return ids.map((id) => {
    const fault = faults.find((f) => f.id === id);
    if (!fault) throw new Refused('This fault no longer exists. Choose it in the worklist again.', 409);
    return fault;
  });
}

/** The part of its faults that a repair treats; undefined where it treats them whole. */
const partOf = ({ cover, portion }: Repair): Portion | undefined =>
  cover || portion ? { take: portion ?? [], rest: [], only: cover } : undefined;

/** What is covered of faults, and px across at the widest place. */
function coverFor(faults: readonly Fault[], portion: Portion | undefined, field: Box) {
  const cover = portion?.only ?? [...faults.flatMap((f) => f.shapes), ...(portion?.take ?? [])];
  const covers = portion ? [cover] : faults.map((f) => f.shapes);
  return {
    cover,
    margin: Math.max(...faults.map((f) => f.margin)),
    feather: Math.max(...faults.map((f) => f.feather)),
    across: Math.max(...covers.map((shapes) => measureFault(shapes, field).width)),
  };
}

/** What says nothing of a fill: other open faults within reach, and what is still to be filled of its own. */
function unknownTo(document: PictureDocument, ids: string[], reach: Box, part: Portion | undefined, margin: number) {
  const others = neighboursOf(document, ids, reach);
  const rest = part?.rest ?? [];
  return {
    // What is left of the fault comes first: it takes away from itself, and must not take from the others.
    avoid: [...rest, ...others.shapes].slice(0, 2000),
    avoidMargin: Math.max(others.margin, rest.length ? margin : 0),
    leftOut: others.ids.length ? others.ids : undefined,
  };
}

/** A new repair with its tries, on its layer, and its faults treated. */
function begun(
  document: PictureDocument,
  { faultIds, layerId }: Pick<FillRequest, 'faultIds' | 'layerId'>,
  faults: Fault[],
  { id, tries, portion, leftOut }: { id: string; tries: Try[]; portion?: Portion; leftOut?: string[] },
  name: () => string,
): Change[] {
  const changes: Change[] = [];
  const layer = layerFor(document, layerId, faults, changes, name);
  const repair = newRepair(document, {
    id,
    layerId: layer.id,
    faultIds,
    tries,
    chosen: tries[0].id,
    strength: Math.max(...faults.map((f) => f.advice?.strength ?? 1)),
    ...(portion && (portion.only ? { cover: portion.only } : { portion: portion.take })),
    leftOut,
  });
  return [...changes, added('repair', repair), ...nowTreated(faults)];
}

/**
 * Works out a fill as an edit: a new repair with three tries that differ in kind, or three more on an existing one.
 * @param count how many tries; fewer than three are the first ones
 * @returns the edit and the ids of the tries that are to be rendered
 */
export function planFill(
  document: PictureDocument,
  request: Omit<FillRequest, 'portions'>,
  source: Size,
  policy: Policy,
  count = 3,
  portion?: Portion,
  name: () => string = newId,
): PlannedEdit & { repairId: string; tryIds: string[] } {
  const field = fieldOf(document, source);
  const faults = chosenFaults(document, request.faultIds);
  refusedByPolicy(policy, faults);
  const existing = request.repairId ? find(document.repairs, request.repairId, 'repair') : undefined;
  if (!existing) refusedWhileLegible(policy, faults, request.anyway);
  const part = portion ?? (existing && partOf(existing));
  const { cover, margin, feather, across } = coverFor(faults, part, field);
  const strands = faults.every((f) => kindFacts(f.kind).strands);
  const depth = across / 2 + margin + feather;
  // What is said about grounds and edges concerns layouts.
  const edges = request.edges?.length ? request.edges : faults.flatMap(edgesOf);
  const guided = Boolean(edges.length || request.grounds?.length);
  const styles = guided ? LAID_OUT : stylesFor(strands ? depthOfStrands(depth) : depth);

  const area = coverWithin(cover, margin, feather, field);
  const far = Math.max(reachOf('far', Math.max(area.width, area.height)), reachOf('first', layoutSize(area)));
  const reach = intersect(grow(area, far), field);
  const canvas = notedCanvas(document);
  const { avoid, avoidMargin, leftOut } = unknownTo(document, request.faultIds, reach, part, margin);
  // Between frames joined what is a gap was evened already, and is like any fault.
  const isBeyond = faults.every((f) => f.kind === 'gap' && !isOwnGap(f, source));

  const round = existing ? Math.floor(existing.tries.length / 3) : 0;
  const repairId = existing?.id ?? name();
  const tries: Try[] = styles.slice(0, count).map((style, n) => {
    const spec: FillSpec = {
      method: 'fill',
      version: versionOf('fill'),
      cover,
      margin,
      feather,
      donorArea: request.donorArea,
      barred: request.barred,
      avoid,
      ...(avoidMargin && { avoidMargin }),
      // Of the fault's own rest nothing is spared: portions go over into each other. Nor where many are treated at once: each would
      // leave a crossing to the other. Nor beyond the picture, where nothing else has anything to go by.
      ...(leftOut && !part && count > 1 && !isBeyond && { spares: true }),
      // What lies beyond the picture gets the light that would have fallen there.
      ...(isBeyond && { light: true }),
      ...(edges.length && { edges }),
      ...(request.grounds?.length && { grounds: request.grounds }),
      ...DEFAULT_FILL,
      ...request.settings,
      style: round > 0 && !guided ? styleAgain(style, n) : style,
      seed: seedFrom(`${repairId}/${round}/${n}`),
      ...(canvas && { canvas }),
    };
    return { id: name(), spec };
  });
  const changes = existing
    ? [changed('repair', existing, { ...existing, tries: [...existing.tries, ...tries], chosen: tries[0].id, leftOut })]
    : begun(document, request, faults, { id: repairId, tries, portion, leftOut }, name);
  const names = namesOf(faults);
  return {
    label: existing ? `Three more tries for ${names}` : `Fill ${names}`,
    changes,
    repairId,
    tryIds: tries.map((t) => t.id),
  };
}
