import { intersect, isEmpty, type Box } from '../../raster/raster.ts';

/** A side of a picture. */
export type Side = 'left' | 'right' | 'top' | 'bottom';

/** How many times as wide the background of a side becomes, on average. */
export interface Amount {
  side: Side;
  times: number;
}

/** Times past which texture and straight lines show that they were drawn out. Common practice; own measurement (bench:stretch). */
export const SHOWS = 1.5;

/** Times up to which drawing a background out is taken for nothing to speak of. */
export const SLIGHT = 1.2;

/**
 * What a background is drawn out to where no side of it may be drawn out by more than {@link SLIGHT}: the rest of a canvas is left to be
 * filled.
 * @param from all of the picture that is kept
 */
export function slightlyOnto(from: Box, onto: Box, guard: Box | null): Box {
  const kept = guard && intersect(guard, from);
  const whole = !kept || isEmpty(kept);
  const most = (add: number, other: number, length: number, room: number) => {
    const own = whole ? (add + other > 0 ? (length * add) / (add + other) : 0) : room;
    return Math.min(add, Math.round(own * (SLIGHT - 1)));
  };
  const [fromRight, fromBottom] = [from.x + from.width, from.y + from.height];
  const adds = {
    left: from.x - onto.x,
    right: onto.x + onto.width - fromRight,
    top: from.y - onto.y,
    bottom: onto.y + onto.height - fromBottom,
  };
  const inner = kept ?? from;
  const left = most(adds.left, adds.right, from.width, inner.x - from.x);
  const right = most(adds.right, adds.left, from.width, fromRight - inner.x - inner.width);
  const top = most(adds.top, adds.bottom, from.height, inner.y - from.y);
  const bottom = most(adds.bottom, adds.top, from.height, fromBottom - inner.y - inner.height);
  return { x: from.x - left, y: from.y - top, width: from.width + left + right, height: from.height + top + bottom };
}

/**
 * How far each side of a background is drawn out between a guarded box and a canvas; Infinity where there is no background to draw.
 * Sides that stay as they are are left out.
 */
export function amountsOf(from: Box, onto: Box, guard: Box | null): Amount[] {
  const kept = guard && intersect(guard, from);
  const right = (b: Box) => b.x + b.width;
  const bottom = (b: Box) => b.y + b.height;
  const adds = {
    left: from.x - onto.x,
    right: right(onto) - right(from),
    top: from.y - onto.y,
    bottom: bottom(onto) - bottom(from),
  };
  const whole = !kept || isEmpty(kept);
  // Without a guard all of it is drawn out as one.
  const shareOf = (add: number, both: number, length: number) => (both > 0 ? (length * add) / both : 0);
  const rooms = whole
    ? {
        left: shareOf(adds.left, adds.left + adds.right, from.width),
        right: shareOf(adds.right, adds.left + adds.right, from.width),
        top: shareOf(adds.top, adds.top + adds.bottom, from.height),
        bottom: shareOf(adds.bottom, adds.top + adds.bottom, from.height),
      }
    : {
        left: kept.x - from.x,
        right: right(from) - right(kept),
        top: kept.y - from.y,
        bottom: bottom(from) - bottom(kept),
      };
  return (Object.keys(adds) as Side[])
    .filter((side) => adds[side] !== 0)
    .map((side) => ({ side, times: rooms[side] > 0 ? (rooms[side] + adds[side]) / rooms[side] : Infinity }));
}

const AT: Record<Side, string> = { left: 'at the left', right: 'at the right', top: 'above', bottom: 'below' };
const round = (times: number) => (Math.round(100 * times) / 100).toFixed(2);

/** The same in words: `1.34 times at the left, 1.12 at the right`. */
export const amountsInWords = (amounts: readonly Amount[]): string =>
  amounts
    .map(({ side, times }, n) =>
      Number.isFinite(times) ? `${round(times)}${n ? '' : ' times'} ${AT[side]}` : `nothing to draw out ${AT[side]}`,
    )
    .join(', ');
