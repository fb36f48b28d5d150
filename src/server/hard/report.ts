/** What a hard test did, and what went wrong. */
export interface Report {
  name: string;
  /** how often something was tried */
  done: number;
  /** outcomes and how often each came */
  counts: Record<string, number>;
  /** what must not be, in words; nothing when all is well */
  problems: string[];
}

export const newReport = (name: string): Report => ({ name, done: 0, counts: {}, problems: [] });

export function count(report: Report, outcome: string): void {
  report.done++;
  report.counts[outcome] = (report.counts[outcome] ?? 0) + 1;
}

/** Random numbers that come again with the same seed. Source: Park and Miller (1988), minimal standard generator. */
export function seeded(seed: number) {
  let state = (seed % 2147483646) + 1;
  const next = () => (state = (state * 16807) % 2147483647) / 2147483647;
  return {
    next,
    below: (n: number) => Math.floor(next() * n),
    pick: <T>(list: readonly T[]): T => list[Math.floor(next() * list.length)],
  };
}
export type Seeded = ReturnType<typeof seeded>;

/** Words of libraries, and places on the server, which no refusal may show. */
const JARGON =
  /vips|libpng|libtiff|sqlite|zod|drizzle|node_modules|undefined|NaN|\bat \S+:\d+|\/tmp\/|\/work\/|\[object/i;

/** What is wrong with an answer; null when nothing is. */
export async function judge(response: Response, ms: number, what: string): Promise<string | null> {
  if (response.status >= 500) return `${what}: ${response.status} ${(await response.text()).slice(0, 200)}`;
  if (ms > 30_000) return `${what}: took ${Math.round(ms / 1000)} s`;
  if (response.status < 400) {
    await response.arrayBuffer();
    return null;
  }
  const text = await response.text();
  let message: unknown;
  try {
    message = (JSON.parse(text) as { message?: unknown }).message;
  } catch {
    return `${what}: ${response.status} without a message: ${text.slice(0, 100)}`;
  }
  if (typeof message !== 'string' || message.length < 8)
    return `${what}: ${response.status} without a sentence: ${text.slice(0, 100)}`;
  return JARGON.test(message) ? `${what}: a refusal in the words of a library: ${message}` : null;
}
