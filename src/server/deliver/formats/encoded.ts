import { FLAT } from '../../../record/flat.ts';
import type { Format } from '../format.ts';

/** The finished picture alone. */
export const { png, tiff, jpeg, web } = FLAT satisfies Record<string, Format>;
