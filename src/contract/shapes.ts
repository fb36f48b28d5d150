import { z } from 'zod';
import type { Shape } from '../core/mask/shapes.ts';

/** Control characters, which no name may hold: they would break the files that names are written into. */
// eslint-disable-next-line no-control-regex
const CONTROL = /[\u0000-\u001f\u007f-\u009f\u2028\u2029\ufffe\uffff]/g;

/** Halves of characters that stand alone: no UTF-8 can hold them, nor any file that is written from them. */
const HALVES = /[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g;

/** A text that any file can hold: control characters become spaces, but for what breaks its lines. */
export const cleanText = (text: string): string =>
  text
    .replace(HALVES, '\ufffd')
    .replace(/\r\n?/g, '\n')
    .split('\n')
    .map((line) => line.replace(CONTROL, ' '))
    .join('\n')
    .trim();

/** A text of several lines as people give it, which may be empty. */
export const plainText = (most: number) => z.string().transform(cleanText).pipe(z.string().max(most));

/** A text of one line that may be empty. */
export const plainLine = (most: number) =>
  z
    .string()
    .transform((text) => cleanText(text).replace(/\n/g, ' '))
    .pipe(z.string().max(most));

/** A name as people give it, without control characters and without space around it. */
export const plainName = (most: number, empty?: string) =>
  z
    .string()
    .transform((text) => cleanText(text).replace(/\n/g, ' '))
    .pipe(z.string().min(1, empty).max(most));

export const coordinate = z.number().finite().min(-100_000).max(200_000);
export const pointSchema = z.tuple([coordinate, coordinate]);
const wholeNumber = z.number().int().min(-200_000).max(200_000);
/** A box in whole px, which may begin below 0. */
export const wholeBoxSchema = z.object({
  x: wholeNumber,
  y: wholeNumber,
  width: wholeNumber.min(0),
  height: wholeNumber.min(0),
});
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
