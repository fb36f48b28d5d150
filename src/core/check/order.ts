import { SEEN, type Finding } from './finding.ts';

/** Share of the other findings beside the worst one in how much a try gives away. */
const OTHERS = 0.3;
/** Weight of repeats in the order of tries: a fill takes all it lays in from somewhere near, and whether that is recognised is told roughly. */
const REPEATS = 0.2;
/** By how much more a try has to give away for one that was made after it to go before it: those made first were thought better. */
const MADE_LATER = 0.4;
/** By how much a better try may repeat itself more. */
const MORE_REPEAT = 0.1;

const weightOf = ({ kind, severity }: Finding): number => (kind === 'repeat' ? REPEATS : 1) * severity;
const worstOf = (list: readonly Finding[]): number =>
  list.reduce((worst, { severity }) => Math.max(worst, severity), 0);
const repeats = (findings: readonly Finding[]) => findings.filter((f) => f.kind === 'repeat');

/** How much a try gives away: the worst of it, and some of the rest; 0 where nothing is found. */
export function givenAway(findings: readonly Finding[]): number {
  const [worst = 0, ...others] = findings.map(weightOf).sort((a, b) => b - a);
  return worst + OTHERS * others.reduce((sum, v) => sum + v * v, 0);
}

/** The worst that somebody would see of a try, so that another had better be made; undefined where nothing would be. */
export const showing = (findings: readonly Finding[]): Finding | undefined =>
  findings.filter((f) => f.severity >= SEEN).sort((a, b) => weightOf(b) - weightOf(a))[0];

/**
 * Tries in the order in which they are best shown, by their places: as they were made, unless a later one gives plainly less away.
 * @param tries what was found in each, in the order in which they were made; undefined for those that are not measured
 */
export function inOrderOfVerdict(tries: ReadonlyArray<readonly Finding[] | undefined>): number[] {
  const best = bestOf(tries);
  const cost = tries.map((findings) => (findings ? givenAway(findings) : Infinity));
  const rest = tries.map((_, n) => n).filter((n) => n !== best);
  return [best, ...rest.sort((a, b) => cost[a] - cost[b] || a - b)];
}

/**
 * The place of the try that is put first: the one that was made first, unless it shows and another does not, or gives plainly less
 * away; and repeats itself no more.
 */
export function bestOf(tries: ReadonlyArray<readonly Finding[] | undefined>): number {
  const [first] = tries;
  if (!first || !showing(first)) return 0;
  const mostRepeated = worstOf(repeats(first)) + MORE_REPEAT;
  const others = tries.flatMap((findings, n) =>
    n && findings && worstOf(repeats(findings)) <= mostRepeated
      ? [{ n, shows: Boolean(showing(findings)), cost: givenAway(findings) }]
      : [],
  );
  const least = givenAway(first) - MADE_LATER;
  const [best] = others
    .filter(({ shows, cost }) => !shows || cost < least)
    .sort((a, b) => Number(a.shows) - Number(b.shows) || a.cost - b.cost);
  return best?.n ?? 0;
}
