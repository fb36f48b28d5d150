import type { Sign } from '../core/check/finding.ts';
import type { Box } from '../core/raster/raster.ts';
import { STRETCH_WAYS } from '../core/repair/spec.ts';
import { z } from 'zod';
import {
  fillSpecSchema,
  faultSchema,
  handSpecSchema,
  idSchema,
  layerSchema,
  poseSchema,
  repairSchema,
  revealSchema,
  strokeSchema,
  type PictureDocument,
  type Sent,
} from './document.ts';
import { EXPORT_FORMATS } from './exports.ts';
import { pointSchema, shapesSchema, wholeBoxSchema } from './shapes.ts';
import { stepSpecSchema, turnSchema } from './steps.ts';
import type { PictureRow } from './studio.ts';

const settings = fillSpecSchema.pick({ tone: true, turn: true, scale: true, mirror: true }).partial();

/** Everything that can be changed on a picture, one entry an edit; each is journalled and can be undone. */
const singleEditSchema = z.discriminatedUnion('type', [
  z.object({
    type: z.literal('addFault'),
    shapes: shapesSchema.min(1),
    kind: faultSchema.shape.kind,
    line: faultSchema.shape.line,
  }),
  z.object({
    type: z.literal('addFaults'),
    faults: z
      .array(faultSchema.pick({ kind: true, shapes: true, found: true }))
      .min(1)
      .max(2_000),
    /** open faults that the new ones hold */
    replaces: z.array(idSchema).max(50).optional(),
  }),
  z.object({
    type: z.literal('changeFault'),
    id: idSchema,
    set: faultSchema.pick({ kind: true, shapes: true, margin: true, feather: true, state: true, note: true }).partial(),
  }),
  z.object({ type: z.literal('removeFault'), id: idSchema }),
  z.object({ type: z.literal('addLayer'), name: layerSchema.shape.name }),
  z.object({
    type: z.literal('changeLayer'),
    id: idSchema,
    set: layerSchema.pick({ name: true, opacity: true, visible: true, group: true, reveal: true }).partial(),
  }),
  z.object({ type: z.literal('moveLayer'), id: idSchema, to: z.number().int().min(0).max(1000) }),
  z.object({ type: z.literal('removeLayer'), id: idSchema }),
  z.object({
    type: z.literal('changeRepair'),
    id: idSchema,
    set: repairSchema.pick({ strength: true, visible: true, chosen: true, layerId: true, reveal: true }).partial(),
  }),
  z.object({ type: z.literal('removeRepair'), id: idSchema }),
  /** a repair by hand, of faults that are there or of a place that is marked by it */
  z.object({
    type: z.literal('placeRepair'),
    /** what the repair will be called, so that strokes can follow before this is answered */
    id: idSchema.optional(),
    spec: handSpecSchema,
    faultIds: z.array(idSchema).max(50),
    mark: faultSchema.pick({ kind: true, shapes: true }).optional(),
    layerId: idSchema.nullable(),
    strength: repairSchema.shape.strength.optional(),
    reveal: revealSchema.optional(),
  }),
  /** takes off what lies over the picture at some faults */
  z.object({
    type: z.literal('lift'),
    faultIds: z.array(idSchema).min(1).max(50),
    layerId: idSchema.nullable(),
  }),
  z.object({ type: z.literal('addStrokes'), id: idSchema, strokes: z.array(strokeSchema).min(1).max(200) }),
  /** other settings, donor or method of a repair by hand */
  z.object({ type: z.literal('changeSpec'), id: idSchema, spec: handSpecSchema }),
  z.object({
    type: z.literal('setStrength'),
    ids: z.array(idSchema).min(1).max(2_000),
    strength: repairSchema.shape.strength,
  }),
  /** other settings for fills that are there, which are rendered again by them */
  z.object({
    type: z.literal('changeFills'),
    ids: z.array(idSchema).min(1).max(500),
    set: settings,
  }),
  /** hides an area of every layer, so that the original is seen there again */
  z.object({ type: z.literal('bringBack'), shapes: shapesSchema.min(1), feather: z.number().min(0).max(200) }),
  /** makes what an earlier version of a method rendered anew with the present one */
  z.object({ type: z.literal('renew'), ids: z.array(idSchema).min(1).max(2_000) }),
  /** sets a step of the chain, such as the canvas; each kind is there once at most */
  z.object({ type: z.literal('setStep'), spec: stepSpecSchema }),
  z.object({ type: z.literal('removeStep'), id: idSchema }),
  /** sets canvas and turn at once, and marks what the canvas adds as a gap; null: as the source is */
  z.object({
    type: z.literal('reframe'),
    canvas: wholeBoxSchema.nullable(),
    turn: turnSchema.nullable(),
  }),
  /** draws the background out over what the canvas adds, away from what is guarded */
  z.object({
    type: z.literal('stretch'),
    faultIds: z.array(idSchema).min(1).max(50),
    guard: shapesSchema,
    way: z.enum(STRETCH_WAYS).optional(),
    /** as far as it is drawn out; what is left of the canvas is a gap of its own. All of the canvas where left out */
    onto: wholeBoxSchema.optional(),
  }),
  z.object({ type: z.literal('duplicateLayer'), id: idSchema }),
  /** into the layer beneath; its repairs stay repairs */
  z.object({ type: z.literal('mergeLayer'), id: idSchema }),
]);
export type SingleEdit = z.infer<typeof singleEditSchema>;

export const editSchema = z.discriminatedUnion('type', [
  ...singleEditSchema.options,
  /** several edits as one, taken back at once */
  z.object({ type: z.literal('all'), edits: z.array(singleEditSchema).min(1).max(500) }),
]);
export type Edit = z.infer<typeof editSchema>;

/** Asks for a fill of one or several faults as one repair, or for three more tries of an existing repair. */
export const fillRequestSchema = z.object({
  faultIds: z.array(idSchema).min(1).max(500),
  layerId: idSchema.nullable().default(null),
  repairId: idSchema.nullable().default(null),
  donorArea: shapesSchema.default([]),
  barred: shapesSchema.default([]),
  /** lines along which an edge runs on inside the cover */
  edges: shapesSchema.max(40).optional(),
  /** strokes that a ground, the one they begin on, is dragged along over its border */
  grounds: shapesSchema.max(40).optional(),
  settings: settings.default({}),
  /** a large fault is filled in so many portions, a repair each, one after another */
  portions: z.number().int().min(1).max(12).default(1),
  /** fills over what can still be read, where a restoration would keep it */
  anyway: z.boolean().optional(),
});
export type FillRequest = z.infer<typeof fillRequestSchema>;

/** Asks in which pose a lifted piece agrees best with the picture around a place. */
export const poseRequestSchema = z.object({
  piece: shapesSchema.min(1),
  rough: pointSchema,
  ignore: shapesSchema.default([]),
  reach: z.number().min(1).max(2_000).optional(),
  turn: z.number().min(0).max(180).optional(),
  scale: z.number().min(1).max(4).optional(),
  mirror: z.boolean().optional(),
});
export type PoseRequest = z.input<typeof poseRequestSchema>;
export type PoseAnswer = z.infer<typeof poseSchema> & { at: [number, number]; agreement: number; sure: boolean };

/** Asks what is proposed for a place: brush, method, donors. */
export const proposalRequestSchema = z.object({
  kind: faultSchema.shape.kind,
  shapes: shapesSchema.min(1),
  /** where donors must not lie, beside the open faults */
  barred: shapesSchema.default([]),
});
export type ProposalRequest = z.input<typeof proposalRequestSchema>;

/** Asks for the pixels beneath a new repair on a layer, or beneath an existing one. */
export const pixelsQuerySchema = z.object({
  x: z.coerce.number().int().min(-200_000).max(1_000_000),
  y: z.coerce.number().int().min(-200_000).max(1_000_000),
  width: z.coerce.number().int().min(1).max(8_192),
  height: z.coerce.number().int().min(1).max(8_192),
  layer: idSchema.optional(),
  repair: idSchema.optional(),
});

/** How far the rendered picture is, beside its document. */
export interface RepairStatus {
  id: string;
  /** shown: rendered and current; working: being rendered; stale: an older rendering is shown meanwhile */
  state: 'shown' | 'working' | 'stale' | 'failed';
  /** try id → what is known of its rendering; what checks object to is left out until it was checked */
  tries: Record<string, { ready: boolean; key: string; reason: string; box: Box; signs?: Sign[] }>;
  message?: string;
  /** made by an earlier version of its method: it stays as it is until it is made anew */
  earlier?: boolean;
}

/** Which opening of the picture its tiles belong to, and the version of each tile of the full size that ever changed. */
export interface PixelVersions {
  epoch: string;
  /** grows with every change of pixels */
  version: number;
  /** tiles in a row of the full size */
  across: number;
  /** number of a tile, by rows, and its version; those not named have version 0 */
  tiles: Array<[number, number]>;
}

export interface PictureState {
  picture: PictureRow;
  document: PictureDocument;
  statuses: RepairStatus[];
  undo: string | null;
  redo: string | null;
  pixels: PixelVersions;
  /** names this state; what changes after it can be asked for by it */
  mark: string;
}

/** What changed between two states: small, however large the document is. */
export interface PictureChanges {
  since: string;
  mark: string;
  revision: number;
  operations: Sent[];
  /** of the repairs whose status changed in more than its state */
  statuses: RepairStatus[];
  /** new states of the others, with the places of these among the document's repairs as they are after the operations */
  states: Partial<Record<RepairStatus['state'], number[]>>;
  undo: string | null;
  redo: string | null;
  /** of the tiles that changed */
  pixels: PixelVersions;
}

/** What an edit is answered with: what it changed, or all of it where the window is too far behind. */
export type EditAnswer = PictureChanges | PictureState;
/** What undo and redo are answered with; the label is null when there was nothing to do. */
export interface StepAnswer {
  label: string | null;
  changes: EditAnswer;
}

/** What the server tells open windows. */
export type ServerEvent =
  | {
      type: 'task';
      id: string;
      pictureId: string | null;
      label: string;
      done: number;
      state: 'running' | 'done' | 'failed' | 'cancelled';
      message?: string;
    }
  | { type: 'changed'; pictureId: string; mark?: string }
  /** a survey was made */
  | { type: 'survey'; pictureId: string }
  | { type: 'jobs' };

export const exportQuerySchema = z.object({
  format: z.enum(EXPORT_FORMATS),
  /** repairs that could not be rendered: refuse to export, or leave them out */
  missing: z.enum(['refuse', 'leave']).default('refuse'),
});

/** Time spent on a fault until it was accepted or left. */
export const workSchema = z.object({ kind: faultSchema.shape.kind, seconds: z.number().min(1).max(36_000) });

/** What past work says: pieces of it for estimates, and what was spent on this picture. */
export interface WorkLog {
  log: Array<{ kind: string; minutes: number }>;
  spentMinutes: number;
}

/** Every refusal of the server has this shape; `message` is for people. */
export interface Refusal {
  message: string;
}
