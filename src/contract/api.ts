import { z } from 'zod';
import { fillSpecSchema, faultSchema, idSchema, layerSchema, repairSchema, type PictureDocument } from './document.ts';
import { shapesSchema } from './shapes.ts';
import type { PictureRow } from './studio.ts';

const settings = fillSpecSchema.pick({ tone: true, turn: true, scale: true, mirror: true }).partial();

/** Everything that can be changed on a picture, one entry an edit; each is journalled and can be undone. */
export const editSchema = z.discriminatedUnion('type', [
  z.object({
    type: z.literal('addFault'),
    shapes: shapesSchema.min(1),
    kind: faultSchema.shape.kind,
    line: faultSchema.shape.line,
    /** open faults that the new one holds */
    replaces: z.array(idSchema).max(50).optional(),
  }),
  z.object({
    type: z.literal('addFaults'),
    faults: z
      .array(faultSchema.pick({ kind: true, shapes: true, found: true }))
      .min(1)
      .max(2_000),
  }),
  z.object({
    type: z.literal('changeFault'),
    id: idSchema,
    set: faultSchema.pick({ kind: true, shapes: true, margin: true, feather: true, state: true }).partial(),
  }),
  z.object({ type: z.literal('removeFault'), id: idSchema }),
  z.object({ type: z.literal('addLayer'), name: layerSchema.shape.name }),
  z.object({
    type: z.literal('changeLayer'),
    id: idSchema,
    set: layerSchema.pick({ name: true, opacity: true, visible: true }).partial(),
  }),
  z.object({ type: z.literal('moveLayer'), id: idSchema, to: z.number().int().min(0).max(1000) }),
  z.object({ type: z.literal('removeLayer'), id: idSchema }),
  z.object({
    type: z.literal('changeRepair'),
    id: idSchema,
    set: repairSchema.pick({ strength: true, visible: true, chosen: true, layerId: true }).partial(),
  }),
  z.object({ type: z.literal('removeRepair'), id: idSchema }),
]);
export type Edit = z.infer<typeof editSchema>;

/** Asks for a fill of one or several faults as one repair, or for three more tries of an existing repair. */
export const fillRequestSchema = z.object({
  faultIds: z.array(idSchema).min(1).max(500),
  layerId: idSchema.nullable().default(null),
  repairId: idSchema.nullable().default(null),
  donorArea: shapesSchema.default([]),
  barred: shapesSchema.default([]),
  settings: settings.default({}),
});
export type FillRequest = z.infer<typeof fillRequestSchema>;

/** How far the rendered picture is, beside its document. */
export interface RepairStatus {
  id: string;
  /** shown: rendered and current; working: being rendered; stale: an older rendering is shown meanwhile */
  state: 'shown' | 'working' | 'stale' | 'failed';
  /** try id → what is known of its rendering */
  tries: Record<
    string,
    { ready: boolean; key: string; reason: string; box: { x: number; y: number; width: number; height: number } }
  >;
  message?: string;
}

export interface PictureState {
  picture: PictureRow;
  document: PictureDocument;
  statuses: RepairStatus[];
  undo: string | null;
  redo: string | null;
  /** which opening of the picture this is, count of versions of the pixels since, and where each version differs from the one before */
  pixels: {
    epoch: string;
    version: number;
    dirty: Array<{ version: number; x: number; y: number; width: number; height: number }>;
  };
  /** number of halvings in the tile pyramid */
  levels: number;
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
  | { type: 'changed'; pictureId: string }
  | { type: 'jobs' };

export const exportFormats = ['png', 'tiff', 'jpeg', 'ora', 'covers'] as const;
export const exportQuerySchema = z.object({
  format: z.enum(exportFormats),
  quality: z.coerce.number().int().min(1).max(100).default(92),
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
