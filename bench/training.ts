// What fitting the forests of specks, curves and clips has in common.
import type { Raster } from '../src/core/raster/raster.ts';
import type { BoostOptions } from './boost.ts';
import { CLEAN_FITTED, cleanPhotograph } from './photographs.ts';
import { negative, photograph, PHOTOGRAPHS, randomiser } from './planted.ts';

/** What forests are fitted on: the photographs that are measured on, and one more. */
export const FITTED = [...PHOTOGRAPHS, 'allium-oreophilum'];

export const TREES: Omit<BoostOptions, 'random'> = {
  trees: 150,
  depth: 4,
  rate: 0.1,
  least: 5,
  ridge: 5,
  rows: 0.6,
  columns: 0.5,
};

/** One picture with what was planted and what was found in it. */
export interface Run<Row> {
  picture: string;
  /** contrast in σ; 0 for the picture as it is; null for one that is only fitted on */
  times: number | null;
  rows: Row[];
}

/** Plants in each photograph at every contrast, and with more variety in `extra` forms of it, which are only fitted on. */
export async function gather<R extends Run<unknown>>(
  contrasts: number[],
  extra: ReadonlyArray<'as it is' | 'negative' | 'small' | 'small negative' | 'large' | 'large negative'>,
  runOf: (picture: string, clean: Raster, times: number | null) => R,
): Promise<R[]> {
  const runs: R[] = [];
  for (const name of FITTED) {
    const clean = await photograph(name);
    for (const times of [0, ...contrasts]) runs.push(runOf(name, clean, times));
    // Smaller, larger and as a negative too, since detail comes at every size and both ways.
    const small = await photograph(name, Math.round(clean.width * 0.66));
    const large = await photograph(name, Math.round(clean.width * 1.4));
    for (const form of extra) {
      const base = form.startsWith('small') ? small : form.startsWith('large') ? large : clean;
      runs.push(runOf(name, form.endsWith('negative') ? negative(base) : base, null));
    }
  }
  return runs;
}

/** Megapixels of a clean photograph at which faults are planted. */
const [LARGE, SMALL] = [6.5, 1.3];

/** Looks at clean photographs as they are, and plants faults in them, at several sizes. */
export async function gatherClean<R extends Run<unknown>>(
  runOf: (picture: string, clean: Raster, times: number | null, random: () => number, count: number) => R,
  counts: { small: number; large: number },
): Promise<R[]> {
  const runs: R[] = [];
  for (const photograph of CLEAN_FITTED) {
    const random = randomiser(500 + photograph.name.length);
    const [whole, large, small] = await Promise.all(
      [Infinity, LARGE, SMALL].map((megapixels) => cleanPhotograph(photograph, megapixels)),
    );
    const add = (clean: Raster, planted: number) =>
      runs.push(runOf(photograph.name, clean, planted ? null : 0, random, planted));
    for (const clean of [...(large.width < whole.width ? [whole] : []), large, small, negative(small)]) add(clean, 0);
    add(small, counts.small);
    add(negative(small), counts.small);
    add(large, counts.large);
  }
  return runs;
}
