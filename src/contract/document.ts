import { z } from 'zod';
import { REMEDY_NAMES } from '../core/check/finding.ts';
import { FAULT_KINDS } from '../core/faults/kinds.ts';
import type { RevealMark } from '../core/mask/reveal.ts';
import { plainName, pointSchema, shapesSchema, plainText } from './shapes.ts';
import { feather, repairSpecSchema, strokeSchema } from './specs.ts';
import { stepSpecSchema } from './steps.ts';

export * from './specs.ts';

/** Short opaque name of a row. */
export const idSchema = z.string().regex(/^[a-z0-9]{8,40}$/);
const name = plainName(120);
const share = z.number().min(0).max(1);

export const FAULT_STATES = ['open', 'treated', 'left', 'accepted'] as const;
export type FaultState = (typeof FAULT_STATES)[number];

export const faultSchema = z.object({
  id: idSchema,
  number: z.number().int().positive(),
  kind: z.enum(FAULT_KINDS),
  shapes: shapesSchema,
  margin: z.number().min(0).max(200),
  feather: z.number().min(0).max(200),
  state: z.enum(FAULT_STATES),
  /** why it was accepted as it is */
  note: plainText(200).optional(),
  /** the find of the survey that it was taken from */
  found: z.string().max(20).optional(),
  /** what was proposed when it was marked, and why */
  advice: z
    .object({
      reason: z.string().max(600),
      /** how it is best treated; a fill where left out */
      method: z.enum(['fill', 'lift']).optional(),
      /** what of it cannot be read any more, and is filled where the rest is lifted */
      lost: shapesSchema.optional(),
      /** straight edges that run on inside it, each side of which is filled by itself */
      edges: shapesSchema.optional(),
      strength: share,
      portions: z.number().int().min(1),
      /** as proposed before the editor's habits, px */
      margin: z.number().optional(),
      feather: z.number().optional(),
    })
    .optional(),
  /** the centre line of a traced strand, px, from which a mesh can be completed */
  line: z
    .object({ points: z.array(pointSchema).min(2).max(20_000), width: z.number().positive(), blur: z.number().min(0) })
    .optional(),
});
export type Fault = z.infer<typeof faultSchema>;
export type { FaultKind } from '../core/faults/kinds.ts';

/** What a repair or a layer hides and shows of itself. */
export const revealSchema = z
  .array(
    z.discriminatedUnion('kind', [
      z.object({ op: z.enum(['hide', 'show']), kind: z.literal('stroke'), stroke: strokeSchema }),
      z.object({ op: z.enum(['hide', 'show']), kind: z.literal('area'), shapes: shapesSchema.min(1), feather }),
    ]) satisfies z.ZodType<RevealMark>,
  )
  .max(2_000);

export const layerSchema = z.object({
  id: idSchema,
  name,
  order: z.number().finite(),
  opacity: share,
  visible: z.boolean(),
  /** subject area under which it is grouped */
  group: z.string().trim().max(60).optional(),
  reveal: revealSchema.optional(),
});
export type Layer = z.infer<typeof layerSchema>;

export const trySchema = z.object({
  id: idSchema,
  spec: repairSpecSchema,
  /** what it was made against, by itself, since an earlier one would be seen */
  remedy: z.enum(REMEDY_NAMES).optional(),
});
export type Try = z.infer<typeof trySchema>;

export const repairSchema = z.object({
  id: idSchema,
  layerId: idSchema,
  order: z.number().finite(),
  faultIds: z.array(idSchema).max(2_000),
  tries: z.array(trySchema).min(1).max(200),
  chosen: idSchema,
  strength: share,
  visible: z.boolean(),
  reveal: revealSchema.optional(),
  /** open faults that were left out when it was made: it is made anew when they are treated, moved or removed */
  leftOut: z.array(idSchema).max(2_000).optional(),
  /** what it covers where that is not what its faults cover */
  cover: shapesSchema.optional(),
  /** what is taken from the fault's cover where the repair treats only a portion of it */
  portion: shapesSchema.optional(),
});
export type Repair = z.infer<typeof repairSchema>;

/** A step of the scan, the frame or the finish. */
export const stepSchema = z.object({ id: idSchema, order: z.number().finite(), spec: stepSpecSchema });
export type Step = z.infer<typeof stepSchema>;

/** What kinds of row a picture's document has. */
export interface Rows {
  fault: Fault;
  layer: Layer;
  repair: Repair;
  step: Step;
}
export type EntityKind = keyof Rows;
export type Row = Rows[EntityKind];

/** One row before and after an edit; null where it did not or does not exist. */
export interface Change {
  kind: EntityKind;
  id: string;
  before: Row | null;
  after: Row | null;
}

/** A small step of an edit that can be inverted: a row put in or taken out, a value set, a piece of a list exchanged. */
export type Operation = { kind: EntityKind; id: string } & (
  | { op: 'put'; before: Row | null; after: Row | null }
  | { op: 'set'; path: ReadonlyArray<string | number>; before?: unknown; after?: unknown }
  | { op: 'splice'; path: ReadonlyArray<string | number>; at: number; removed: unknown[]; added: unknown[] }
);

/** An operation as it is sent, without what it replaces. */
export type Sent = { kind: EntityKind; id: string } & (
  | { op: 'put'; after: Row | null }
  | { op: 'set'; path: ReadonlyArray<string | number>; after?: unknown }
  | { op: 'splice'; path: ReadonlyArray<string | number>; at: number; removed: number; added: unknown[] }
);

/** A picture's rows in one piece. */
export interface PictureDocument {
  faults: Fault[];
  layers: Layer[];
  repairs: Repair[];
  steps: Step[];
}
