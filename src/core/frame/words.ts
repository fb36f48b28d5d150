import type { Box } from '../raster/raster.ts';
import { printMm } from './delivery.ts';
import { resolutionAt, roomOf, type Framing } from './framing.ts';
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

/** How far off a place may be to count as stood on, share of the long side. */
const NEARLY = 0.005;

/**
 * What it takes to make a picture of another proportion, in one line.
 * @param delivery its long side on paper or screen, mm; null where it is not known
 */
export function sumInWords(
  format: string,
  picture: Box,
  framing: Framing,
  { placement, focus, delivery }: { placement: Placement; focus: string; delivery: number | null },
): string {
  const { canvas, sides } = framing;
  const parts = (wanted: (n: number) => boolean) =>
    (Object.entries(sides) as Array<[keyof typeof sides, number]>)
      .filter(([, n]) => wanted(n))
      .map(([side, n]) => ({ n: Math.abs(n), side: SIDE[side] }));
  type Part = ReturnType<typeof parts>[number];
  const sum = (list: Part[]) => list.reduce((s, { n }) => s + n, 0);
  const [added, cut] = [parts((n) => n > 0), parts((n) => n < 0)];
  const clauses: string[] = [];
  const amounts = (list: Part[], what: string) =>
    list.length > 1
      ? `${px(sum(list))} px ${what}, ${listed(list.map(({ n, side }) => `${px(n)} ${side}`))}`
      : `${px(list[0].n)} px ${what} ${list[0].side}`;
  if (added.length) clauses.push(amounts(added, 'to add'));
  if (cut.length) clauses.push(amounts(cut, 'to cut'));
  if (!clauses.length) clauses.push('it has that proportion already');
  const place = placeInWords(placement);
  const off = Math.max(Math.abs(framing.misses.across), Math.abs(framing.misses.down));
  const long = Math.max(canvas.width, canvas.height);
  let stands = '';
  if (place && framing.stands)
    stands =
      off <= NEARLY * long
        ? `, so that ${focus} stands ${place}`
        : `; ${focus} then stands ${px(off)} px off being ${place}`;
  const perPx = delivery === null ? null : delivery / long;
  const mm = perPx === null || !added.length ? '' : `; ${Math.round(sum(added) * perPx)} mm at delivery`;
  return `${format} from ${px(picture.width)} × ${px(picture.height)}: ${clauses.join('; ')}${stands}${mm}`;
}
const SIDE = { left: 'left', top: 'above', right: 'right', bottom: 'below' } as const;

type Size = Pick<Box, 'width' | 'height'>;

/** Resolution of a canvas on paper, against what is asked for. */
export function resolutionInWords({ width, height }: Size, longSideMm: number, asked: number): string {
  const { ppi, short } = resolutionAt(Math.max(width, height), longSideMm, asked);
  const found = `${Math.round(ppi)} ppi at ${Math.round(longSideMm)} mm`;
  if (short < 0.005) return `${found}; ${asked} asked: enough`;
  return `${found}; ${asked} asked: ${Math.round(100 * short)} % short, ${Math.round(printMm(Math.max(width, height), asked))} mm at that`;
}

/** What a canvas has of what is asked for, by its size on paper or by its pixels. Both are of one proportion, so the width tells. */
export function wantedInWords(seen: Size, wanted: Wanted): string {
  if (wanted.by === 'print') {
    return resolutionInWords(seen, Math.max(wanted.width, wanted.height), wanted.ppi);
  }
  // How many those are is said before.
  const times = seen.width / wanted.width;
  if (times < 0.995) return `${Math.round(100 * (1 - times))} % short of those pixels`;
  return times < 1.05 ? 'enough of those pixels' : `${times.toFixed(1)} times those pixels across`;
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
  if (head < 0 || before < 0 || behind < 0) return 'It is cut.';
  const above = `${share(head)} of the height above it${head < HEAD_ROOM.least ? ': tight' : head > HEAD_ROOM.most ? ': a lot' : ''}`;
  if (!subject.looks) return `${above}.`;
  const looks = before < behind ? ': it looks out of the picture' : '';
  return `${above}; ${share(before)} of the width before it, ${share(behind)} behind${looks}.`;
}
