import { coverBounds, rasterise } from '../../mask/shapes.ts';
import { toFloat4 } from '../../raster/planes.ts';
import { colourChannels, growWithin, isEmpty, type Box } from '../../raster/raster.ts';
import type { Beneath } from '../method.ts';
import type { LiftSpec } from '../spec.ts';
import { REACH, type Known } from './unwrapped.ts';

/** px around a cover in which what is lifted may lie, soft edge included. */
export const BEYOND = 90;

/** The box of a cover with all around it that is looked at; empty where it lies outside the picture. */
export function lookedAt(cover: LiftSpec['cover'], { width, height }: Pick<Beneath, 'width' | 'height'>): Box {
  const box = coverBounds(cover, 0, 0, width, height);
  return isEmpty(box) ? box : growWithin(box, BEYOND + REACH, width, height);
}

/** The pixels around a cover, and what of them says nothing. @throws Error with a message for the user */
export function readKnown(
  beneath: Beneath,
  { cover, avoid }: Pick<LiftSpec, 'cover' | 'avoid'>,
): { known: Known; frame: Box } {
  const frame = lookedAt(cover, beneath);
  if (isEmpty(frame)) throw new Error('The outline lies outside the picture. Mark the stain again.');
  const picture = beneath.read(frame);
  const unknown = avoid.length ? rasterise(avoid, frame).data : new Uint8Array(frame.width * frame.height);
  const gap = beneath.gap?.(frame);
  if (gap) for (let i = 0; i < unknown.length; i++) unknown[i] ||= gap[i];
  const channels = colourChannels(picture.channels);
  return { known: { image: toFloat4(picture), width: frame.width, height: frame.height, channels, unknown }, frame };
}
