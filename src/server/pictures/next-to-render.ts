import { isEarlier } from '../../core/repair/registry.ts';
import type { OpenPicture } from './open-picture.ts';
import type { StackEntry } from './stack.ts';

/**
 * The try to render next: a chosen one that is not current, else one that a stop of the server left unrendered.
 * @param held repairs that show an older rendering wait
 */
export function nextToRender(picture: OpenPicture, held = false) {
  const idle = picture.stack().filter((e) => !picture.working.has(e.repair.id));
  const specOf = ({ repair }: StackEntry) => repair.tries.find((t) => t.id === repair.chosen)!.spec;
  // What an earlier version of a method made stays as it is: today it would look otherwise.
  for (const e of idle) {
    if (e.current || !isEarlier(specOf(e)) || picture.failureOf(e.key) !== undefined) continue;
    picture.fail(e.key, 'Made by an earlier version of its method, over other pixels than now. Make it anew.');
  }
  const stale = idle.find((e) => !e.current && !(held && e.shown) && picture.failureOf(e.key) === undefined);
  if (stale) {
    const label = stale.shown ? 'Update a repair that samples changed pixels' : 'Render a repair';
    return {
      repairId: stale.repair.id,
      tryId: stale.repair.chosen,
      failure: stale.key,
      label,
      update: Boolean(stale.shown),
    };
  }
  for (const { repair, key } of idle) {
    const failed = (id: string) => picture.failureOf(id === repair.chosen ? key : id) !== undefined;
    const missing = repair.tries.find((t) => !picture.index.byTry.has(t.id) && !failed(t.id) && !isEarlier(t.spec));
    if (missing)
      return { repairId: repair.id, tryId: missing.id, failure: missing.id, label: 'Finish a fill', update: false };
  }
  return undefined;
}

/** A shown rendering to check next, with the stack it stands in; what was begun before is not begun again. */
export function nextToCheck(
  picture: OpenPicture,
  begun: Set<string>,
): [entries: readonly StackEntry[], at: number, tryId: string] | undefined {
  const entries = picture.stack();
  const at = entries.findIndex((e) => e.current && !begun.has(e.key) && !picture.index.byKey.get(e.key)?.signs);
  if (at < 0) return undefined;
  begun.add(entries[at].key);
  return [entries, at, entries[at].repair.chosen];
}
