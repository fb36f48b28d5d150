import { z } from 'zod';
import { GROWING_WAYS } from '../core/plan/frame-ways.ts';
import { STRETCH_WAYS } from '../core/repair/spec.ts';
import type { Sign } from '../core/check/finding.ts';
import { idSchema } from './document.ts';
import { shapesSchema, wholeBoxSchema } from './shapes.ts';

/** What tiles show; `changes` are the repairs alone on grey, `only-ID` those of one layer. */
export const tileViewSchema = z.union([
  z.enum(['repaired', 'original', 'difference', 'changes']),
  z
    .string()
    .regex(/^only-[a-z0-9]{8,40}$/)
    .transform((v) => v as `only-${string}`),
]);
export type TileView = z.infer<typeof tileViewSchema>;

const whole = z.coerce.number().int().min(0).max(1_000_000);
const place = z.coerce.number().int().min(-200_000).max(1_000_000);
/** names a state of the pixels: a picture that is asked for under one may be kept */
export const versionSchema = z.string().max(60).optional();

/** One tile; px of its level, from the canvas' corner on. */
export const tileSchema = z.object({
  id: idSchema,
  view: tileViewSchema,
  version: z.string().max(60),
  level: whole,
  x: whole,
  y: whole,
});

/** A box of the picture, px of the base, or all of it, at most `side` px large. */
export const closeUpSchema = z.object({
  x: place.optional(),
  y: place.optional(),
  width: whole.min(1).optional(),
  height: whole.min(1).optional(),
  side: whole.min(16).max(1024),
  view: z.enum(['repaired', 'original']).default('repaired'),
  v: versionSchema,
});

/** A rendering by its hash, or the sketch of a try. */
export const keySchema = z.object({
  id: idSchema,
  key: z.string().regex(/^([0-9a-f]{64}|sketch-[a-z0-9]{8,40})$/),
});
const side = whole.min(1).max(1024);
/** A box of the picture as it would be with a try in use. */
export const tryViewSchema = z.object({ x: place, y: place, width: side, height: side, v: versionSchema });

/** A place whose values are asked for, px of the base. */
export const valuesSchema = z.object({ x: place, y: place, v: versionSchema });
/** Samples of a pixel as it came and as it is now, in the picture's own depth, and how far apart they look (CIEDE2000). */
export interface Values {
  before: number[] | null;
  after: number[];
  difference: number | null;
}

/** A way to a canvas that is to be looked at before it is taken; px of the base. */
export const waySchema = z.object({
  way: z.enum(GROWING_WAYS),
  canvas: wholeBoxSchema,
  subject: shapesSchema.max(200),
  by: z.enum(STRETCH_WAYS),
  /** where fills may come from, where not, and lines along which edges go on */
  donorArea: shapesSchema.max(200).default([]),
  barred: shapesSchema.max(200).default([]),
  edges: shapesSchema.max(40).default([]),
});
/** How it would look. */
export interface WayView {
  /** address of the picture itself */
  picture: string;
  /** what would give it away at that size, and px of its longer side */
  signs: Sign[];
  longSide: number;
}

/** Outlines of a subject: none where the picture has no subject, null where nobody has said. */
export const subjectSchema = z.object({ shapes: shapesSchema.max(200).nullable() });
/** A subject roughly marked: all of it lies within a box; what is surely part of it, and what surely is not. */
export const subjectEdgeSchema = z.object({
  within: wholeBoxSchema,
  keep: shapesSchema.max(200),
  leave: shapesSchema.max(200),
});
