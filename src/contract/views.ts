import { z } from 'zod';

/** What tiles show; `changes` are the repairs alone on grey, `only-ID` those of one layer. */
export const tileViewSchema = z.union([
  z.enum(['repaired', 'original', 'difference', 'changes']),
  z
    .string()
    .regex(/^only-[a-z0-9]{8,40}$/)
    .transform((v) => v as `only-${string}`),
]);
export type TileView = z.infer<typeof tileViewSchema>;
