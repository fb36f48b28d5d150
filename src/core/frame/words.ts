import type { Box } from '../raster/raster.ts';
import { printMm } from './delivery.ts';
import { isOnPlace, resolutionAt, roomOf, type Framing } from './framing.ts';
import type { Placement, SubjectPlace, Wanted } from './format.ts';

/** A count with its thousands apart. */
const px = (n: number) => String(Math.round(Math.abs(n))).replace(/\B(?=(\d{3})+$)/g, '\u202f');

/** Several things as a sentence has them: a, b and c. */
export const listed = (parts: readonly string[]) =>
  parts.length > 1 ? `${parts.slice(0, -1).join(', ')} and ${parts.at(-1)}` : (parts[0] ?? '');

const ACROSS = { 'first third': 'left third', centre: 'middle', 'second third': 'right third' } as const;
const DOWN = { 'first third': 'upper third', centre: 'middle', 'second third': 'lower third' } as const;

/** Where a subject was asked to stand, in words; null where nowhere in particular. */
export function placeInWords({ across, down }: Placement): string | null {
  if (!across && !down) return null;
  if (across && down) {
    if (across === 'centre' && down === 'centre') return 'in the middle';
    if (across !== 'centre' && down !== 'centre')
      return `on the ${DOWN[down].split(' ')[0]} ${ACROSS[across].split(' ')[0]} third`;
    return across === 'centre' ? `in the middle, on the ${DOWN[down]}` : `on the ${ACROSS[across]}, half-way up`;
  }
  const word = across ? ACROSS[across] : DOWN[down!];
  return word === 'middle' ? (across ? 'in the middle' : 'half-way up') : `on the ${word}`;
}

const SIDE = { left: 'on the left', top: 'at the top', right: 'on the right', bottom: 'at the bottom' } as const;

/**
 * What it takes to make a picture of another proportion, in short sentences.
 * @param delivery its long side on paper or screen, mm; null where it is not known
 */
export function sumInWords(
  format: string,
  framing: Framing,
  { placement, focus, delivery }: { placement: Placement; focus: string; delivery: number | null },
): string {
  const { canvas, sides, misses } = framing;
  const all = Object.entries(sides) as Array<[keyof typeof sides, number]>;
  const amounts = (list: typeof all) => listed(list.map(([side, n]) => `${px(n)} px ${SIDE[side]}`));
  const [added, cut] = [all.filter(([, n]) => n > 0), all.filter(([, n]) => n < 0)];
  const perPx = delivery === null ? null : delivery / Math.max(canvas.width, canvas.height);
  const mm = perPx === null ? '' : ` (${Math.round(added.reduce((s, [, n]) => s + n, 0) * perPx)} mm at delivery)`;
  const clauses = [
    ...(added.length ? [`adds ${amounts(added)}${mm}`] : []),
    ...(cut.length ? [`cuts ${amounts(cut)}`] : []),
  ];
  const what = clauses.length ? clauses.join(' and ') : 'the picture has this proportion already';
  const place = placeInWords(placement);
  if (!place || !framing.stands) return `${format}: ${what}.`;
  const off = Math.max(Math.abs(misses.across), Math.abs(misses.down));
  const stands = isOnPlace(framing) ? `is ${place}` : `cannot be ${place}: it is ${px(off)} px away`;
  return `${format}: ${what}. ${focus} ${stands}.`;
}

type Size = Pick<Box, 'width' | 'height'>;

/** Resolution of a canvas on paper, against what is asked for. */
export function resolutionInWords({ width, height }: Size, longSideMm: number, asked: number): string {
  const { ppi, short } = resolutionAt(Math.max(width, height), longSideMm, asked);
  const found = `${Math.round(ppi)} ppi at ${Math.round(longSideMm)} mm`;
  if (short < 0.005) return `${found}: enough for ${asked} ppi`;
  const largest = Math.round(printMm(Math.max(width, height), asked));
  return `${found}, ${Math.round(100 * short)} % below ${asked} ppi, which it reaches at ${largest} mm`;
}

/** What a canvas has of what is asked for, by its size on paper or by its pixels. Both are of one proportion, so the width tells. */
export function wantedInWords(seen: Size, wanted: Wanted): string {
  if (wanted.by === 'print') {
    return resolutionInWords(seen, Math.max(wanted.width, wanted.height), wanted.ppi);
  }
  const times = seen.width / wanted.width;
  if (times < 0.995) return `${Math.round(100 * (1 - times))} % narrower than asked for`;
  return times < 1.05 ? 'as many pixels as asked for' : `${times.toFixed(1)} times as wide as asked for`;
}

/** Share of the height that is above a head at the least, and at the most, so that nobody minds. */
const HEAD_ROOM = { least: 0.04, most: 0.25 };

/**
 * Room above a subject, and before it where it looks, in words.
 * Common practice: a head has about a tenth of the height above it; a look has more room before it than behind.
 */
export function roomInWords(canvas: Box, subject: SubjectPlace): string {
  const { head, before, behind } = roomOf(canvas, subject);
  const share = (v: number) => `${Math.round(100 * v)} %`;
  if (head < 0 || before < 0 || behind < 0) return 'Part of it is cut off.';
  const judged = head < HEAD_ROOM.least ? ', which is tight' : head > HEAD_ROOM.most ? ', which is a lot' : '';
  const above = `${share(head)} of the height is free above it${judged}.`;
  if (!subject.looks) return above;
  const looks = before < behind ? ' It looks out of the picture.' : '';
  return `${above} ${share(before)} of the width is in front of it, ${share(behind)} behind it.${looks}`;
}
