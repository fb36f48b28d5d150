/** How far some work was when it was first seen. */
export interface Seen {
  /** ms */
  at: number;
  /** 0 to 1 */
  done: number;
}

/** Seconds that work will still take if it goes on as since it was first seen; null while that says little. */
export function secondsLeft(first: Seen | undefined, done: number, now: number): number | null {
  if (!first || done >= 1) return null;
  const gone = (now - first.at) / 1000;
  const moved = done - first.done;
  if (gone < 1.5 || moved < 0.04) return null;
  return (gone * (1 - done)) / moved;
}
