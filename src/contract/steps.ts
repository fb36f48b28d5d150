import { z } from 'zod';
import type { StepSpec } from '../core/chain/registry.ts';
import { wholeBoxSchema } from './shapes.ts';

const canvasSpecSchema = z.object({
  step: z.literal('canvas'),
  box: wholeBoxSchema.refine((b) => b.width > 0 && b.height > 0, 'A canvas is at least one pixel wide and high.'),
}) satisfies z.ZodType<StepSpec>;

/** Every kind of step's settings; see `core/chain/registry`. */
export const stepSpecSchema = z.discriminatedUnion('step', [canvasSpecSchema]) satisfies z.ZodType<StepSpec>;
