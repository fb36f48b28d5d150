import { z } from 'zod';
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
import { coordinate, pointSchema, shapesSchema, wholeBoxSchema } from './shapes.ts';

const share = z.number().min(0).max(1);

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
/** px over which an edge falls off */
export const feather = z.number().min(0).max(200);
/** what every spec holds: the version of the method, and the canvas, that it was made for */
const made = { version: z.number().int().min(1).max(1_000).optional(), canvas: wholeBoxSchema.optional() };

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
