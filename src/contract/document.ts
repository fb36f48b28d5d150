import { z } from 'zod';
import type { RevealMark } from '../core/mask/reveal.ts';
import { LAID_OUT, PREDICTED } from '../core/repair/fill/settings.ts';
import type { Stroke } from '../core/mask/strokes.ts';
import type { Donor } from '../core/repair/hand/donor.ts';
import {
  STRETCH_WAYS,
  type BlendSpec,
  type CopySpec,
  type FillSpec,
  type GivenSpec,
  type LiftSpec,
  type StretchSpec,
  type StripSpec,
  type PatchSpec,
  type ShadeSpec,
  type TransplantSpec,
} from '../core/repair/spec.ts';
import { REMEDY_NAMES } from '../core/check/finding.ts';
import { FAULT_KINDS } from '../core/faults/kinds.ts';
import { coordinate, plainName, pointSchema, shapesSchema, wholeBoxSchema } from './shapes.ts';
import { stepSpecSchema } from './steps.ts';

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
  note: z.string().trim().max(200).optional(),
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

/** One pass of a brush; see `core/mask/strokes`. */
export const strokeSchema = z.object({
  points: z
    .array(z.tuple([coordinate, coordinate, share]))
    .min(1)
    .max(20_000),
  size: z.number().min(0.5).max(5_000),
  hardness: share,
  flow: z.number().min(0.005).max(1),
  opacity: share,
  spacing: z.number().min(0.01).max(2),
  pressure: z.enum(['none', 'size', 'flow']),
  phase: z.number().min(0).max(10_000).optional(),
}) satisfies z.ZodType<Stroke>;
const strokes = z.array(strokeSchema).min(1).max(2_000);
const feather = z.number().min(0).max(200);
/** what every spec holds: the version of the method, and the canvas, that it was made for */
const made = { version: z.number().int().min(1).max(1_000).optional(), canvas: wholeBoxSchema.optional() };

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

export const fillSpecSchema = z.object({
  method: z.literal('fill'),
  ...made,
  cover: shapesSchema,
  margin: z.number().min(0).max(200),
  feather: z.number().min(0).max(200),
  donorArea: shapesSchema,
  barred: shapesSchema,
  avoid: shapesSchema,
  avoidMargin: z.number().min(0).max(200).optional(),
  spares: z.boolean().optional(),
  light: z.boolean().optional(),
  edges: shapesSchema.max(40).optional(),
  grounds: shapesSchema.max(40).optional(),
  seed: z.number().int().min(0).max(0x7fffffff),
  style: z.enum(['auto', ...PREDICTED, 'textured', ...LAID_OUT, 'near', 'far', 'lines']),
  tone: z.enum(['none', 'gentle', 'strong']),
  turn: z.boolean(),
  scale: z.boolean(),
  mirror: z.boolean(),
}) satisfies z.ZodType<FillSpec>;

export const givenSpecSchema = z.object({
  method: z.literal('given'),
  ...made,
  index: z.number().int().min(0).max(10_000),
  box: wholeBoxSchema,
}) satisfies z.ZodType<GivenSpec>;

export const poseSchema = z.object({
  turn: z.number().min(-360).max(360),
  scale: z.number().min(0.25).max(4),
  mirror: z.enum(['none', 'across', 'down']),
});
const donorSchema = poseSchema.extend({
  from: pointSchema,
  at: pointSchema,
  travels: z.boolean(),
}) satisfies z.ZodType<Donor>;

export const copySpecSchema = z.object({
  method: z.literal('copy'),
  ...made,
  strokes,
  donor: donorSchema,
}) satisfies z.ZodType<CopySpec>;
export const blendSpecSchema = z.object({
  method: z.literal('blend'),
  ...made,
  strokes,
  donor: donorSchema.nullable(),
  avoid: shapesSchema,
}) satisfies z.ZodType<BlendSpec>;
export const patchSpecSchema = z.object({
  method: z.literal('patch'),
  ...made,
  cover: shapesSchema.min(1),
  feather,
  blended: z.boolean(),
  donor: donorSchema,
}) satisfies z.ZodType<PatchSpec>;
export const transplantSpecSchema = z.object({
  method: z.literal('transplant'),
  ...made,
  piece: shapesSchema.min(1),
  feather,
  blended: z.boolean(),
  donor: donorSchema,
  bend: z.array(pointSchema).length(9),
}) satisfies z.ZodType<TransplantSpec>;
export const shadeSpecSchema = z.object({
  method: z.literal('shade'),
  ...made,
  strokes,
  effect: z.enum(['tone', 'grain']),
  stops: z.number().min(-3).max(3),
  range: z.enum(['all', 'shadows', 'mid-tones', 'highlights']),
  seed: z.number().int().min(0).max(0x7fffffff),
}) satisfies z.ZodType<ShadeSpec>;

export const liftSpecSchema = z.object({
  method: z.literal('lift'),
  ...made,
  cover: shapesSchema.min(1),
  amount: z.number().min(0.2).max(2),
  anyway: z.boolean().optional(),
  avoid: shapesSchema,
}) satisfies z.ZodType<LiftSpec>;

export const stretchSpecSchema = z.object({
  method: z.literal('stretch'),
  ...made,
  from: wholeBoxSchema,
  onto: wholeBoxSchema,
  guard: shapesSchema,
  way: z.enum(STRETCH_WAYS).optional(),
}) satisfies z.ZodType<StretchSpec>;

export const stripSpecSchema = z.object({
  method: z.literal('strip'),
  ...made,
  corners: z.tuple([pointSchema, pointSchema, pointSchema, pointSchema]),
  profile: z
    .array(z.tuple([share, z.number().min(-0.5).max(0.5)]))
    .min(2)
    .max(40)
    .refine((p) => p.every(([t], k) => k === 0 || t >= p[k - 1][0]), 'The places of a profile go downwards.'),
  relief: share,
  stops: z.number().min(-3).max(3),
  shadow: share,
  guard: shapesSchema,
}) satisfies z.ZodType<StripSpec>;

/** The methods that are done by hand. */
export const handSpecSchema = z.discriminatedUnion('method', [
  copySpecSchema,
  blendSpecSchema,
  patchSpecSchema,
  transplantSpecSchema,
  shadeSpecSchema,
  liftSpecSchema,
  stripSpecSchema,
]);
export type HandSpec = z.infer<typeof handSpecSchema>;

/** Every method's settings. */
export const repairSpecSchema = z.discriminatedUnion('method', [
  fillSpecSchema,
  givenSpecSchema,
  copySpecSchema,
  blendSpecSchema,
  patchSpecSchema,
  transplantSpecSchema,
  shadeSpecSchema,
  liftSpecSchema,
  stretchSpecSchema,
  stripSpecSchema,
]);

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
