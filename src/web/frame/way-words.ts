import type { PictureState } from '../../contract/api.ts';
import { findingsOf } from '../../core/check/check.ts';
import { FINDING_WORDS, verdictOf } from '../../core/check/words.ts';
import { SEEN } from '../../core/check/finding.ts';
import type { SubjectPlace } from '../../core/frame/format.ts';
import { listed } from '../../core/frame/words.ts';
import type { Viewing } from '../../core/frame/visibility.ts';
import type { Box } from '../../core/raster/raster.ts';
import { amountsInWords, SHOWS } from '../../core/repair/stretch/amounts.ts';
import { findingsOfTry } from '../lib/findings.ts';
import { count, plural } from '../lib/format.ts';
import type { Looked } from './useWayViews.ts';
import { amountsOfWay, firstToClean, ontoOf, type Way } from './ways.ts';

export const WAY_NAMES = {
  crop: 'Crop',
  extend: 'Fill the sides',
  stretch: 'Stretch the background',
  mixed: 'Stretch some, fill the rest',
} as const;

const percent = (share: number) => `${(100 * share).toFixed(share < 0.1 ? 1 : 0)} %`;

/** How far the background is drawn out, and whether that will be seen. */
function drawnOutInWords(way: Way, source: Pick<Box, 'width' | 'height'>, subject: SubjectPlace | null): string[] {
  const amounts = way.framing.added > 0.001 ? amountsOfWay(way, source, subject) : [];
  if (!amounts.length) return ['nothing to draw out'];
  const most = Math.max(...amounts.map((a) => a.times));
  return [amountsInWords(amounts), ...(Number.isFinite(most) && most > SHOWS ? [`past ${SHOWS} times it shows`] : [])];
}

/** Whether a way draws the background out farther than is believed: small, it still looks well. */
export const isTooFar = (way: Way, source: Pick<Box, 'width' | 'height'>, subject: SubjectPlace | null): boolean =>
  way.way !== 'extend' && way.way !== 'crop' && amountsOfWay(way, source, subject).some((a) => a.times > SHOWS);

/** Share of its canvas that a way leaves to be filled. */
function toFill(way: Way, source: Pick<Box, 'width' | 'height'>, subject: SubjectPlace | null): number {
  if (way.way === 'extend') return way.framing.added;
  if (way.way !== 'mixed') return 0;
  const onto = ontoOf(way, source, subject);
  return 1 - (onto.width * onto.height) / (way.seen.width * way.seen.height);
}

/** What a way costs in two or three words. */
export function costInShort(way: Way, source: Pick<Box, 'width' | 'height'>, subject: SubjectPlace | null): string {
  if (way.way === 'crop')
    return way.framing.cut > 0
      ? 'cuts the subject'
      : way.framing.lost > 0.001
        ? `${percent(way.framing.lost)} lost`
        : 'nothing lost';
  const fill = toFill(way, source, subject);
  const times = way.way === 'extend' ? [] : amountsOfWay(way, source, subject).map((a) => a.times);
  const most = Math.max(...times);
  return [
    ...(times.length
      ? [Number.isFinite(most) ? `${most.toFixed(2)} times${most > SHOWS ? ', too far' : ''}` : 'nothing to draw']
      : []),
    ...(fill > 0.001 ? [`${percent(fill)} to fill`] : []),
    ...(way.framing.added > 0.001 ? [] : ['nothing to add']),
  ].join(', ');
}

/** What a way costs, in figures. */
export function costsOf(state: PictureState, asked: Way, subject: SubjectPlace | null): string[] {
  const { way, framing, seen } = asked;
  const size = `${count(seen.width)} × ${count(seen.height)} px`;
  if (way === 'crop')
    return [
      size,
      framing.lost > 0.001 ? `${percent(framing.lost)} of the picture is lost` : 'nothing is lost',
      ...(framing.cut > 0 ? ['cuts into the subject'] : []),
    ];
  const { facts } = state.picture;
  const out = [size];
  const fill = toFill(asked, facts, subject);
  const isDrawn = way !== 'extend';
  if (isDrawn) out.push(...drawnOutInWords(asked, facts, subject));
  if (way !== 'stretch') out.push(fill > 0.001 ? `${percent(fill)} of it has to be filled` : 'nothing to fill');
  if (framing.added <= 0.001) return out;
  const open = isDrawn ? state.document.faults.filter((f) => f.state === 'open' && f.kind !== 'gap').length : 0;
  const clean = isDrawn ? 0 : firstToClean(state.document.faults, facts, asked).length;
  if (open) out.push(`clean ${plural(open, 'open fault')} first, or they are drawn out too`);
  if (clean) out.push(`clean ${plural(clean, 'open fault')} beside it first: what they hide lends nothing`);
  return out;
}

/** What Check says of a way that was only looked at. */
export function lookedInWords(looked: Looked, viewing: Viewing): { short: string; long: string } {
  if (!looked) return { short: 'being tried…', long: 'It is being tried at a small size.' };
  if ('refused' in looked) return { short: 'not possible', long: looked.refused };
  const seen = findingsOf(looked.signs, looked.longSide, viewing).filter((f) => f.severity >= SEEN);
  if (!seen.length) return { short: 'nothing seen', long: 'Tried small, Check finds nothing that would be seen.' };
  const kinds = [...new Set(seen.map((f) => FINDING_WORDS[f.kind].short))];
  return { short: kinds[0], long: `Tried small, Check says: ${listed(kinds.slice(0, 4))}.` };
}

/** How badly the worst shows of a way that was looked at; undefined where that is not known. */
export function worstOf(looked: Looked, viewing: Viewing): number | undefined {
  if (!looked) return undefined;
  if ('refused' in looked) return Infinity;
  return findingsOf(looked.signs, looked.longSide, viewing)[0]?.severity ?? 0;
}

/** What Check says of what was made of the gaps. */
export function checkedInWords(state: PictureState, viewing: Viewing): string {
  const { faults, repairs } = state.document;
  const gaps = new Set(faults.filter((f) => f.kind === 'gap').map((f) => f.id));
  const own = repairs.filter((r) => r.faultIds.some((id) => gaps.has(id)));
  const found = own.map((r) => {
    const status = state.statuses.find((s) => s.id === r.id);
    return status?.state === 'shown' ? findingsOfTry(status, r.chosen, state, viewing) : undefined;
  });
  if (!own.length) return '';
  if (found.some((f) => f === undefined)) return 'Being made and checked.';
  const verdict = verdictOf(found.flatMap((f) => f!).sort((a, b) => b.severity - a.severity));
  return verdict ? `Check: ${verdict}.` : 'Check finds nothing that would be seen.';
}
