import { z } from 'zod';
import { FINDER_NAMES, type FinderName } from '../core/find/survey.ts';
import type { TracedStrand } from '../core/find/strand/traced-strand.ts';
import { FAULT_KINDS } from '../core/faults/kinds.ts';
import { idSchema } from './document.ts';
import { pointSchema, shapesSchema } from './shapes.ts';

const finderSchema = z.enum(FINDER_NAMES as [FinderName, ...FinderName[]]);

/** What a survey is asked for. */
export const surveyRequestSchema = z.object({
  finders: z.array(finderSchema).min(1).optional(),
  /** the backdrop, for scuffs */
  backdrop: shapesSchema.default([]),
  /** what the picture is about, for stand-outs */
  subject: shapesSchema.default([]),
});
export type SurveyRequest = z.infer<typeof surveyRequestSchema>;

const boxSchema = z.object({ x: z.number(), y: z.number(), width: z.number(), height: z.number() });

/** Something found; the command line writes the same shape, without `id` and `rejected`. */
export const findSchema = z.object({
  id: z.string().max(20),
  finder: finderSchema,
  kind: z.enum(FAULT_KINDS),
  score: z.number(),
  shapes: shapesSchema,
  box: boxSchema,
  /** px across, and along */
  width: z.number(),
  length: z.number(),
  /** levels of 255 lighter (above 0) or darker than its ground */
  contrast: z.number(),
  /** colour difference CIEDE2000 to what is around it */
  difference: z.number().default(0),
  rejected: z.boolean().default(false),
});
export type SurveyFind = z.infer<typeof findSchema>;

/** A picture's last survey. */
export interface Survey {
  at: number;
  request: SurveyRequest;
  finds: SurveyFind[];
}

/** A survey as the interface shows it: those in the worklist are named by their fault. */
export type SurveyView = Survey & { taken: Record<string, string> };

/** What is told of a traced strand. */
export type TraceAnswer = Pick<TracedStrand, 'width' | 'blur' | 'contrast' | 'length' | 'certainty'>;

export const decisionSchema = z.object({
  ids: z.array(z.string().max(20)).min(1).max(50_000),
  rejected: z.boolean(),
});

/** Takes finds into the worklist. */
export const acceptSchema = z.object({ ids: z.array(z.string().max(20)).min(1).max(2_000) });

/** Fills many faults in the background, each as a repair of its own. */
export const treatRequestSchema = z.object({ faultIds: z.array(idSchema).min(1).max(2_000) });

export const traceRequestSchema = z.object({ points: z.array(pointSchema).min(2).max(200) });
export const meshRequestSchema = z.object({ faultIds: z.array(idSchema).min(2).max(20) });
