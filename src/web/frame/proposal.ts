import { SEEN } from '../../core/check/finding.ts';
import type { SubjectPlace } from '../../core/frame/format.ts';
import { isOnPlace } from '../../core/frame/framing.ts';
import type { Box } from '../../core/raster/raster.ts';
import { SHOWS } from '../../core/repair/stretch/amounts.ts';
import { amountsOfWay, type Way, type Ways } from './ways.ts';

/** Share of the picture that a crop may lose before other ways are considered, and what counts as nothing. */
const LITTLE = 0.2;
const NOTHING = 0.002;

/** A way that is proposed, and why. */
export interface FrameProposal {
  way: Way;
  reason: string;
}

interface Known {
  source: Pick<Box, 'width' | 'height'>;
  subject: SubjectPlace | null;
  /** severity of the worst thing that Check sees in a way that was tried; Infinity where it is not possible, undefined until it was tried */
  worstOf(way: Way): number | undefined;
  /** the scene may not be changed: what a crop can do is not added */
  documentary?: boolean;
}

const percent = (share: number) => `${Math.round(100 * share)} %`;

/** How far a way draws the background out, at the most. */
const timesOf = (way: Way, { source, subject }: Known) =>
  Math.max(1, ...amountsOfWay(way, source, subject).map((a) => a.times));

/** Ways that add something, in the order in which clean ones are preferred. */
function growing({ extend, stretch, mixed }: Ways, known: Known): Way[] {
  const drawn = [stretch, mixed].filter((w) => w !== null && timesOf(w, known) <= SHOWS);
  return [drawn[0], extend, drawn[1]].filter((w) => w !== undefined && w !== null);
}

/** What speaks for a clean way. */
function cleanReason(way: Way, known: Known): string {
  if (way.way === 'extend') return 'Check finds nothing in the filled sides.';
  return `The background is stretched ${timesOf(way, known).toFixed(2)} times at most, and Check finds nothing in it.`;
}

/** What speaks against a crop. */
function againstCrop({ framing }: Way): string {
  return framing.cut > 0
    ? 'A crop would cut the subject.'
    : `A crop would lose ${percent(framing.lost)} of the picture.`;
}

/**
 * The way that is proposed: one that puts the subject where it was asked for, leaves it whole, and in which Check finds nothing.
 * Of clean ways a stretch comes first, since it invents nothing; nothing is stretched without a subject.
 */
export function proposalOf(ways: Ways, known: Known): FrameProposal {
  const { crop } = ways;
  const isWhole = crop.framing.cut === 0;
  const fits = (way: Way) => !known.subject || isOnPlace(way.framing);
  if (crop.framing.lost < NOTHING && fits(crop)) return { way: crop, reason: 'Nothing is lost and nothing is added.' };
  const adding = growing(ways, known).filter((w) => w.set.canvas !== null);
  const placed = adding.some(fits) || (isWhole && fits(crop)) ? adding.filter(fits) : adding;
  const canCrop = isWhole && (fits(crop) || !placed.length);
  const cropped = `A crop loses ${percent(crop.framing.lost)} and leaves the subject whole.`;
  if (canCrop && known.documentary)
    return {
      way: crop,
      reason: `${known.subject ? cropped : `A crop loses ${percent(crop.framing.lost)}.`} This job changes nothing in the scene.`,
    };
  const clean = placed.find((w) => (known.worstOf(w) ?? Infinity) < SEEN);
  if (clean && clean.way !== 'extend') return { way: clean, reason: cleanReason(clean, known) };
  if (canCrop && crop.framing.lost <= LITTLE)
    return { way: crop, reason: known.subject ? cropped : `A crop loses only ${percent(crop.framing.lost)}.` };
  if (clean) return { way: clean, reason: `${againstCrop(crop)} ${cleanReason(clean, known)}` };
  return withoutClean(ways, placed, canCrop, known);
}

/** What is proposed while nothing is known to be clean: the crop if it leaves the subject whole, or what shows least. */
function withoutClean({ crop, extend }: Ways, placed: readonly Way[], canCrop: boolean, known: Known): FrameProposal {
  const untried = placed.find((w) => known.worstOf(w) === undefined);
  if (untried) return { way: placed.includes(extend) ? extend : untried, reason: againstCrop(crop) };
  if (canCrop) return { way: crop, reason: `A crop loses ${percent(crop.framing.lost)}. Every other way would show.` };
  const least = [...placed].sort((a, b) => known.worstOf(a)! - known.worstOf(b)!)[0];
  return { way: least ?? crop, reason: `${againstCrop(crop)} Every way would show; this one least.` };
}
