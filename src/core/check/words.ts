import { SEEN, type Finding, type FindingKind, type Remedy } from './finding.ts';

/** What each finding is called: in two words, and as a group is headed. */
export const FINDING_WORDS: Record<FindingKind, { short: string; group: string }> = {
  leftover: { short: 'bits left', group: 'Left over beside the cover' },
  repeat: { short: 'repeats itself', group: 'Repeats' },
  seam: { short: 'hard seam', group: 'Seams' },
  'tone-step': { short: 'tone off', group: 'Steps in tone' },
  'lost-grain': { short: 'too smooth', group: 'Lost grain' },
  'false-grain': { short: 'too grainy', group: 'False grain' },
  smear: { short: 'smeared edge', group: 'Smears' },
  'broken-line': { short: 'line broken', group: 'Broken lines' },
  'bent-line': { short: 'line bent', group: 'Bent lines' },
  shadow: { short: 'shadow left?', group: 'Shadows without an object' },
  unfinished: { short: 'not finished', group: 'Unfinished' },
};

/** What was tried by itself against a finding, in two words. */
export const REMEDY_WORDS: Record<Remedy, string> = {
  'widen-margin': 'wider margin',
  'other-donor': 'other donors',
  'other-try': 'another way',
  'match-tone': 'tone matched',
  'restore-grain': 'more grain',
  'copy-along': 'along lines',
  'cover-shadow': 'with shadow',
  treat: 'treated',
  update: 'updated',
};

/** The worst of what would be seen, in two words; null where nothing would be. */
export function verdictOf(findings: readonly Finding[]): string | null {
  const worst = findings.find((f) => f.severity >= SEEN);
  return worst ? FINDING_WORDS[worst.kind].short : null;
}
