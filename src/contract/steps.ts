import { z } from 'zod';
import type { StepSpec } from '../core/chain/registry.ts';
import { pointSchema, wholeBoxSchema } from './shapes.ts';

const canvasSpecSchema = z.object({
  step: z.literal('canvas'),
  box: wholeBoxSchema.refine((b) => b.width > 0 && b.height > 0, 'A canvas is at least one pixel wide and high.'),
}) satisfies z.ZodType<StepSpec>;

/** How a picture is turned and cut when it leaves. */
export const turnSchema = z.object({
  degrees: z
    .number()
    .min(-45, 'A picture is turned by at most 45 degrees.')
    .max(45, 'A picture is turned by at most 45 degrees.'),
  about: pointSchema,
  crop: wholeBoxSchema
    .refine((b) => b.width > 0 && b.height > 0, 'What is kept is at least one pixel wide and high.')
    .nullable(),
});

const turnSpecSchema = turnSchema.extend({ step: z.literal('turn') }) satisfies z.ZodType<StepSpec>;

/** Every kind of step's settings; see `core/chain/registry`. */
export const stepSpecSchema = z.discriminatedUnion('step', [
  canvasSpecSchema,
  turnSpecSchema,
]) satisfies z.ZodType<StepSpec>;
