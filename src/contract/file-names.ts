/** What a file's name may be made of. */
export interface NameParts {
  client: string;
  job: string;
  /** the source's name without its ending */
  picture: string;
  version: number;
  /** as 2026-11-27 */
  date: string;
}

/** Words that a template may hold, in braces. */
export const NAME_WORDS = ['client', 'job', 'picture', 'version', 'date'] as const;

/** Characters that some file system does not take, and control characters. */
// eslint-disable-next-line no-control-regex
const UNSAFE = /[\u0000-\u001f\u007f<>:"/\\|?*]+/g;
/** Names that one system keeps for itself, whatever ending they have. From memory. */
const RESERVED = /^(con|prn|aux|nul|com\d|lpt\d)$/i;
/** Bytes that a file's name may have on every usual file system, less room for an ending. */
const MOST_BYTES = 200;

/** A text as a part of a file's name that every usual file system takes. */
export function safeName(text: string): string {
  let safe = text
    .normalize('NFC')
    .replace(UNSAFE, ' ')
    .replace(/\s+/g, ' ')
    .replace(/^[\s.]+|[\s.]+$/g, '');
  const size = (t: string) => new TextEncoder().encode(t).length;
  while (size(safe) > MOST_BYTES) safe = Array.from(safe).slice(0, -1).join('').trimEnd();
  return RESERVED.test(safe) ? `${safe}_` : safe || 'picture';
}

/** Words in braces that a template holds and that mean nothing. */
export const unknownWords = (template: string): string[] =>
  [...template.matchAll(/\{([^}]*)\}/g)].map((m) => m[1]).filter((w) => !NAME_WORDS.includes(w as never));

/** A file's name after a template, without its ending; words that are empty leave no gap. */
export function fileNameFrom(template: string, parts: NameParts): string {
  const words: Record<string, string> = { ...parts, version: String(parts.version) };
  return safeName(template.replace(/\{(\w+)\}/g, (whole, word: string) => words[word] ?? whole));
}
