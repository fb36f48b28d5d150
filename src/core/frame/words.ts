import type { Box } from '../raster/raster.ts';
import { printMm } from './delivery.ts';
import { resolutionAt, type Framing } from './framing.ts';
import type { Placement } from './format.ts';

/** A count with its thousands apart. */
const px = (n: number) => String(Math.round(Math.abs(n))).replace(/\B(?=(\d{3})+$)/g, '\u202f');

const listed = (parts: readonly string[]) =>
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

/** Resolution of a canvas on paper, against what is asked for. */
export function resolutionInWords({ width, height }: Box, longSideMm: number, asked: number): string {
  const { ppi, short } = resolutionAt(Math.max(width, height), longSideMm, asked);
  const found = `${Math.round(ppi)} ppi at ${Math.round(longSideMm)} mm`;
  if (short < 0.005) return `${found}; ${asked} asked: enough`;
  return `${found}; ${asked} asked: ${Math.round(100 * short)} % short, ${Math.round(printMm(Math.max(width, height), asked))} mm at that`;
}
