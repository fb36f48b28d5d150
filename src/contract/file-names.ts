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
/** And with its endings. */
const MOST_WHOLE = 240;
/** Halves of characters that stand alone. */
const HALVES = /[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g;

const bytesOf = (text: string): number => new TextEncoder().encode(text).length;

/** A text cut to so many bytes, between characters. */
function cut(text: string, most: number): string {
  const characters = Array.from(text);
  while (bytesOf(characters.join('')) > most) characters.pop();
  return characters.join('').trimEnd();
}

/** A text as a part of a file's name that every usual file system takes. @param most bytes it may have */
export function safeName(text: string, most = MOST_BYTES): string {
  const safe = text
    .normalize('NFC')
    .replace(HALVES, '_')
    .replace(UNSAFE, ' ')
    .replace(/\s+/g, ' ')
    .replace(/^[\s.]+|[\s.]+$/g, '');
  const short = cut(safe, most);
  return RESERVED.test(short) ? `${short}_` : short || 'picture';
}

/** Endings of a file's name that must not be cut off: `.png`, or `.png.record.json`. */
const ENDINGS = /(?:\.[a-z0-9]{1,8}){1,3}$/i;

/** A file's name that every usual file system takes, cut before its endings. */
export function safeFileName(name: string): string {
  const ending = ENDINGS.exec(name)?.[0] ?? '';
  const stem = name.slice(0, name.length - ending.length);
  return stem ? `${safeName(stem, MOST_WHOLE - bytesOf(ending))}${ending}` : safeName(name);
}

/** The name, or where it is taken the first with a number before its endings that is free. */
export function freeName(name: string, isTaken: (name: string) => boolean): string {
  const ending = ENDINGS.exec(name)?.[0] ?? '';
  const stem = name.slice(0, name.length - ending.length);
  let free = name;
  for (let n = 2; isTaken(free); n++) free = `${cut(stem, MOST_WHOLE - bytesOf(ending) - 8)} (${n})${ending}`;
  return free;
}

/** Words in braces that a template holds and that mean nothing. */
export const unknownWords = (template: string): string[] =>
  [...template.matchAll(/\{([^}]*)\}/g)].map((m) => m[1]).filter((w) => !NAME_WORDS.includes(w as never));

/** Words that are shortened where a name is too long; version and date tell files apart and stay whole. */
const SHORTENED = ['client', 'job', 'picture'] as const;
/** Bytes that each of them keeps. */
const LEAST_BYTES = 12;

/** A file's name after a template, without its ending; words that are empty leave no gap, and long ones are shortened. */
export function fileNameFrom(template: string, parts: NameParts): string {
  const words: Record<string, string> = { ...parts, version: String(parts.version) };
  const filled = () =>
    template.replace(/\{(\w+)\}/g, (whole, word: string) => (Object.hasOwn(words, word) ? words[word] : whole));
  for (let over = bytesOf(filled()) - MOST_BYTES; over > 0; over = bytesOf(filled()) - MOST_BYTES) {
    const longest = SHORTENED.reduce((a, b) => (bytesOf(words[b]) > bytesOf(words[a]) ? b : a));
    const now = bytesOf(words[longest]);
    if (now <= LEAST_BYTES) break;
    words[longest] = cut(words[longest], Math.max(LEAST_BYTES, now - Math.ceil(over / 2)));
  }
  return safeName(filled());
}
