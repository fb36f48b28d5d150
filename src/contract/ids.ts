/** Short opaque name of a new row: the time, so that names sort by it, and chance. */
export function newId(): string {
  const chance = Array.from(crypto.getRandomValues(new Uint8Array(6)), (v) => v.toString(16).padStart(2, '0'));
  return Date.now().toString(36).padStart(9, '0') + chance.join('');
}
