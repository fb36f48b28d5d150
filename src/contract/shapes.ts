import { z } from 'zod';
import type { Shape } from '../core/mask/shapes.ts';

export const coordinate = z.number().finite().min(-100_000).max(200_000);
export const pointSchema = z.tuple([coordinate, coordinate]);
const points = z.array(pointSchema).min(1).max(20_000);
const op = z.enum(['add', 'take']);
const size = z.number().min(0.5).max(5_000);

/** One stroke of marking; see `core/mask/shapes`. */
export const shapeSchema = z.discriminatedUnion('kind', [
  z.object({ op, kind: z.literal('outline'), points }),
  z.object({
    op,
    kind: z.literal('box'),
    x: coordinate,
    y: coordinate,
    width: z.number().min(0).max(200_000),
    height: z.number().min(0).max(200_000),
  }),
  z.object({ op, kind: z.literal('brush'), points, size }),
  z.object({ op, kind: z.literal('strand'), points, size }),
]) satisfies z.ZodType<Shape>;

export const shapesSchema = z.array(shapeSchema).max(2_000);
