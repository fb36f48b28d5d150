import { KINDS, type FaultKind } from '../faults/kinds.ts';

/** A piece of logged work: minutes spent on one fault of a kind. */
export interface Logged {
  /** as it was logged, which may be a kind of former times */
  kind: string;
  minutes: number;
}

/** How long something will take: the likely time and the range in which half of such work lies. */
export interface Estimate {
  minutes: number;
  low: number;
  high: number;
  /** how many logged pieces of work it rests on; 0 = the usual figures */
  from: number;
}

/** Pieces of work of a kind from which on the editor's own times count. */
const ENOUGH = 3;

function share(sorted: number[], at: number): number {
  const k = (sorted.length - 1) * at;
  const i = Math.floor(k);
  return sorted[i] + (sorted[Math.min(sorted.length - 1, i + 1)] - sorted[i]) * (k - i);
}

/** Minutes for one fault of a kind: the median of the editor's own logged times, or the usual figure until there are three. */
export function minutesFor(kind: FaultKind, log: readonly Logged[]): Estimate {
  const own = log.filter((l) => l.kind === kind).map((l) => l.minutes);
  const usual = KINDS[kind].minutes;
  if (own.length < ENOUGH) return { minutes: usual, low: usual * 0.5, high: usual * 2, from: 0 };
  own.sort((a, b) => a - b);
  return { minutes: share(own, 0.5), low: share(own, 0.25), high: share(own, 0.75), from: own.length };
}

/** Minutes for several faults: times add up, spreads as of independent pieces of work. */
export function minutesForAll(kinds: readonly FaultKind[], log: readonly Logged[]): Estimate {
  let minutes = 0;
  let below = 0;
  let above = 0;
  let from = 0;
  for (const kind of kinds) {
    const e = minutesFor(kind, log);
    minutes += e.minutes;
    below += (e.minutes - e.low) ** 2;
    above += (e.high - e.minutes) ** 2;
    from = Math.max(from, e.from);
  }
  return { minutes, low: Math.max(0, minutes - Math.sqrt(below)), high: minutes + Math.sqrt(above), from };
}
