import type { Finding } from './finding.ts';

/** Share of the other findings beside the worst one in how much a try gives away. */
const OTHERS = 0.3;
/** Weight of repeats: a fill takes all it lays in from somewhere near, and whether that is recognised is told roughly. */
const REPEATS = 0.2;
/** By how much more a try has to give away for one that was made after it to go before it: those made first were thought better. */
const MADE_LATER = 0.4;

const weightOf = ({ kind, severity }: Finding): number => (kind === 'repeat' ? REPEATS : 1) * severity;

/** How much a try gives away: the worst of it, and some of the rest; 0 where nothing is found. */
export function givenAway(findings: readonly Finding[]): number {
  const [worst = 0, ...others] = findings.map(weightOf).sort((a, b) => b - a);
  return worst + OTHERS * others.reduce((sum, v) => sum + v * v, 0);
}

/**
 * Tries in the order in which they are best shown, by their places: as they were made, unless a later one gives plainly less away.
 * @param tries what was found in each, in the order in which they were made; undefined for those that are not measured
 */
export function inOrderOfVerdict(tries: ReadonlyArray<readonly Finding[] | undefined>): number[] {
  const cost = tries.map((findings, n) => (findings ? givenAway(findings) + n * MADE_LATER : Infinity));
  return tries.map((_, n) => n).sort((a, b) => cost[a] - cost[b] || a - b);
}
