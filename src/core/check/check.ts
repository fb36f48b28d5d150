import { componentBoxes } from '../mask/components.ts';
import { usualDistance, type Viewing } from '../frame/visibility.ts';
import type { Box } from '../raster/raster.ts';
import { grain } from './checks/grain.ts';
import { lines } from './checks/lines.ts';
import { ramp } from './checks/ramp.ts';
import { repeat } from './checks/repeat.ts';
import { rim } from './checks/rim.ts';
import { seam } from './checks/seam.ts';
import { smear } from './checks/smear.ts';
import { toneStep } from './checks/tone-step.ts';
import { unfinished } from './checks/unfinished.ts';
import { findingOf, severityOf, type Finding, type Sign } from './finding.ts';
import { placeOf, type Pictures, type Place } from './place.ts';

/** One check of a repaired place. */
export type Check = (place: Place) => Sign[];

/** All checks of one place, in the order in which they are told of equal severity. Whether it was treated at all is another question. */
export const CHECKS: readonly Check[] = [toneStep, smear, ramp, seam, rim, grain, lines, repeat];

/** Severity below which nothing is told: a quarter of what can just be noticed. */
const LEAST = 0.25;
/** Share of the smaller of two boxes that lies in both, from which on signs of one kind are one. */
const SAME = 0.4;

/** px that two boxes share, as a share of the smaller one. */
function overlap(a: Box, b: Box): number {
  const wide = Math.min(a.x + a.width, b.x + b.width) - Math.max(a.x, b.x);
  const high = Math.min(a.y + a.height, b.y + b.height) - Math.max(a.y, b.y);
  return wide > 0 && high > 0 ? (wide * high) / Math.min(a.width * a.height, b.width * b.height) : 0;
}

/** Looking usual where nothing is known: 300 mm, from the usual distance. */
export const USUAL_VIEWING: Viewing = { longSideMm: 300, distanceMm: usualDistance(300) };

/** What a place gives away, whoever looks at it. */
export const signsOf = (place: Place): Sign[] => CHECKS.flatMap((check) => check(place));

/** Signs as they are told to who looks from somewhere: those that can be seen at all, each once, worst first. */
export function findingsOf(signs: readonly Sign[], longSidePx: number, viewing: Viewing = USUAL_VIEWING): Finding[] {
  const weighed = signs
    .map((sign) => ({ sign, severity: severityOf(sign, longSidePx, viewing) }))
    .filter(({ severity }) => severity >= LEAST)
    .sort((a, b) => b.severity - a.severity);
  const kept: Sign[] = [];
  for (const { sign } of weighed)
    if (!kept.some((k) => k.kind === sign.kind && overlap(k.box, sign.box) > SAME)) kept.push(sign);
  return kept.map((sign) => findingOf(sign, longSidePx, viewing));
}

/** What is known of a picture beside its pixels. */
export interface CheckOptions {
  viewing?: Viewing;
  /** px of the long side that is delivered; that of the picture where left out */
  longSide?: number;
  /** px that say nothing: open faults */
  unknown?: Uint8Array;
}

/**
 * Checks every covered place of a picture.
 * @param covers 1 (or more) where something was repaired, a byte a pixel
 */
export function checkPicture(
  pictures: Pictures,
  covers: Uint8Array,
  { viewing, unknown, longSide = Math.max(pictures.after.width, pictures.after.height) }: CheckOptions = {},
): Finding[] {
  const { width, height } = pictures.after;
  const what = new Uint8Array(covers.length);
  for (let i = 0; i < what.length; i++) what[i] = covers[i] || unknown?.[i] ? 2 : 0;
  const out: Finding[] = [];
  const each = (box: Box, of: (i: number) => void) => {
    for (let y = box.y; y < box.y + box.height; y++) for (let x = box.x; x < box.x + box.width; x++) of(y * width + x);
  };
  for (const box of componentBoxes(covers, width, height)) {
    each(box, (i) => covers[i] && (what[i] = 1));
    const place = placeOf(pictures, what, box);
    out.push(...findingsOf([...unfinished(place), ...signsOf(place)], longSide, viewing));
    each(box, (i) => covers[i] && (what[i] = 2));
  }
  return out.sort((a, b) => b.severity - a.severity);
}
