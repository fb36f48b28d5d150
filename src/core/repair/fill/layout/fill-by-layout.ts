import { NoDonorsInReach } from '../no-donors.ts';
import type { Raster } from '../../../raster/raster.ts';
import { paint } from './paint.ts';
import { plansOf, type LayoutKind } from './plans.ts';
import { prepare, sameWindow, windowOf, type LayoutRegion, type Prepared } from './prepare.ts';

/** A cover filled by a layout. */
export interface LaidOut {
  picture: Raster;
  kind: LayoutKind;
  grounds: number;
}

/** What the last cover was laid out on, and how it can be: all tries of a cover share it. */
let last: (Prepared & { plans?: ReturnType<typeof plansOf> }) | null = null;

/** Lets go of what is kept for further tries of the last cover. */
export function forgetLayouts(): void {
  last = null;
}

function prepareOnce(region: LayoutRegion): NonNullable<typeof last> {
  const cut = windowOf(region);
  if (!last || !sameWindow(last, cut)) {
    last = null;
    last = prepare(cut);
  }
  return last;
}

/**
 * Fills a cover by the layout of a rank, the preferred one first.
 * @param tone share of the correction of tone that is applied, 0 to 1
 * @returns a copy of the picture with the cover filled
 * @throws NoDonorsInReach when nothing may be taken
 */
export function fillByLayout(
  region: LayoutRegion,
  { seed, rank, tone }: { seed: number; rank: number; tone: number },
  onProgress?: (done: number) => void,
): LaidOut {
  const { picture } = region;
  const prepared = prepareOnce(region);
  const { levels, at, window } = prepared;
  if (levels[at].allowed.indexOf(1) < 0) throw new NoDonorsInReach();
  onProgress?.(0.1);
  const plans = (prepared.plans ??= plansOf(prepared));
  const order = [plans[rank], ...plans];
  for (const plan of order) {
    const { kind, grounds, carry } = plan();
    onProgress?.(0.4);
    const parts = carry(seed);
    onProgress?.(0.9);
    if (!parts) continue;
    const out: Raster = { ...picture, data: picture.data.slice() };
    for (const part of parts) paint(out, prepared.picture, window, levels[0].cover, part, tone);
    onProgress?.(1);
    return { picture: out, kind, grounds };
  }
  throw new NoDonorsInReach();
}
