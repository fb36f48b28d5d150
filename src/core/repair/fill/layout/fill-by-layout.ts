import type { Raster } from '../../../raster/raster.ts';
import { paint } from './paint.ts';
import { plansOf, type LayoutKind } from './plans.ts';
import { prepare, type LayoutRegion } from './prepare.ts';

/** A cover filled by a layout. */
export interface LaidOut {
  picture: Raster;
  kind: LayoutKind;
  grounds: number;
}

/**
 * Fills a cover by the layout of a rank, the preferred one first.
 * @param tone share of the correction of tone that is applied, 0 to 1
 * @returns a copy of the picture with the cover filled
 * @throws Error 'no donors' when nothing may be taken
 */
export function fillByLayout(
  region: LayoutRegion,
  { seed, rank, tone }: { seed: number; rank: number; tone: number },
  onProgress?: (done: number) => void,
): LaidOut {
  const { picture } = region;
  const prepared = prepare(region);
  const { levels, at, window } = prepared;
  if (levels[at].allowed.indexOf(1) < 0) throw new Error('no donors');
  onProgress?.(0.1);
  const plans = plansOf(prepared, seed);
  const order = [plans[rank], ...plans];
  for (const plan of order) {
    const { kind, grounds, carry } = plan();
    onProgress?.(0.4);
    const parts = carry();
    onProgress?.(0.9);
    if (!parts) continue;
    const out: Raster = { ...picture, data: picture.data.slice() };
    for (const part of parts) paint(out, prepared.picture, window, levels[0].cover, part, tone);
    onProgress?.(1);
    return { picture: out, kind, grounds };
  }
  throw new Error('no donors');
}
