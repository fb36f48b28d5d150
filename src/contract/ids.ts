/** Short opaque name of a new row: the time, so that names sort by it, and chance. */
export function newId(): string {
  const chance = Array.from(crypto.getRandomValues(new Uint8Array(6)), (v) => v.toString(16).padStart(2, '0'));
  return Date.now().toString(36).padStart(9, '0') + chance.join('');
}

/** Names of requests that names of rows can be made from. */
const PLAIN = /^[a-z0-9]{16,32}$/;

/**
 * Names the rows that a request makes, one after another. They follow from the request's own name, where that is plain, so that a
 * browser knows them before the server has answered.
 */
export function rowNames(request: string | undefined): () => string {
  if (!request || !PLAIN.test(request)) return newId;
  let made = 0;
  return () => request + (made++).toString(36).padStart(4, '0');
}
