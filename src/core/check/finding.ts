import type { Box } from '../raster/raster.ts';
import { visibilityOf, type Viewing } from '../frame/visibility.ts';

/** Signs that give a repair away. */
export const FINDING_KINDS = [
  'leftover',
  'repeat',
  'seam',
  'tone-step',
  'lost-grain',
  'false-grain',
  'smear',
  'broken-line',
  'bent-line',
  'shadow',
  'unfinished',
] as const;
export type FindingKind = (typeof FINDING_KINDS)[number];

/** What is done about a finding. */
export type Remedy =
  | 'widen-margin'
  | 'other-donor'
  | 'other-try'
  | 'match-tone'
  | 'restore-grain'
  | 'copy-along'
  | 'cover-shadow'
  | 'treat'
  | 'update';

/** What each remedy is called. */
export const REMEDIES: Record<Remedy, string> = {
  'widen-margin': 'Widen the margin, so that the cover takes in what is left of it.',
  'other-donor': 'Bar the place it was taken from, or choose another donor area.',
  'other-try': 'Take another try.',
  'match-tone': 'Match its tone to what is around.',
  'restore-grain': 'Give it the grain of what is around.',
  'copy-along': 'Copy along the line, from where it is whole.',
  'cover-shadow': 'If this shadow belonged to what was removed, cover and lift it too.',
  treat: 'Treat this fault, or leave it as it is.',
  update: 'Let it be rendered anew.',
};

export const REMEDY_NAMES = Object.keys(REMEDIES) as [Remedy, ...Remedy[]];

/** Unit of a leftover that is a fault's own soft edge: its figure says by how much the margin falls short. */
export const SOFT_EDGE = 'px that its soft edge runs on';

/** What a check objects to, as it measured it. */
export interface Sign {
  kind: FindingKind;
  /** where, px of the picture */
  box: Box;
  /** what was measured, and its unit */
  figure: number;
  unit: string;
  /** how much it differs from how it should look, about as CIEDE2000 */
  difference: number;
  /** px over which it is seen across, and along */
  across: number;
  along: number;
  /** the other of two places that belong together */
  partner?: Box;
  remedy: Remedy;
}

/** What a check objects to, and how well that is seen. */
export interface Finding {
  kind: FindingKind;
  box: Box;
  figure: number;
  unit: string;
  /** 0 to 1: a half is what can just be noticed as the picture will be seen */
  severity: number;
  partner?: Box;
  remedy: Remedy;
}

/** Severity from which on somebody would see it. */
export const SEEN = 0.5;

/** How well a sign is seen, 0 to 1. */
export function severityOf(sign: Sign, longSidePx: number, viewing: Viewing): number {
  const { across, along, difference } = sign;
  const { times } = visibilityOf({ acrossPx: across, alongPx: along, difference }, longSidePx, viewing);
  return times / (1 + times);
}

/** A sign as it is told. */
export const findingOf = (sign: Sign, longSidePx: number, viewing: Viewing): Finding => ({
  kind: sign.kind,
  box: sign.box,
  figure: Number(sign.figure.toPrecision(3)),
  unit: sign.unit,
  severity: Number(severityOf(sign, longSidePx, viewing).toFixed(3)),
  ...(sign.partner && { partner: sign.partner }),
  remedy: sign.remedy,
});
