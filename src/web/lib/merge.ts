import type { EditAnswer, PictureState, RepairStatus } from '../../contract/api.ts';
import { applyOperations } from '../../document/operations.ts';

const numberOf = (mark: string) => Number(mark.split('.')[1]);
const epochOf = (mark: string) => mark.split('.')[0];
const atLeast = (a: string, b: string) => epochOf(a) === epochOf(b) && numberOf(a) >= numberOf(b);

/**
 * The state of a picture after an answer of the server: the whole state, or what changed since an earlier one. Of answers that
 * overtake one another the newer stays.
 * @returns null when something between the two is missing, and must be asked for
 */
export function merged(now: PictureState | undefined, answer: EditAnswer): PictureState | null {
  if ('document' in answer) return now && atLeast(now.mark, answer.mark) ? now : answer;
  if (!now) return null;
  if (answer.since !== now.mark) return atLeast(now.mark, answer.mark) ? now : null;
  const { mark, revision, undo, redo, pixels } = answer;
  const document = answer.operations.length ? applyOperations(now.document, answer.operations) : now.document;
  const known = new Map(now.statuses.map((s) => [s.id, s]));
  for (const s of answer.statuses) known.set(s.id, s);
  for (const [state, places] of Object.entries(answer.states) as Array<[RepairStatus['state'], number[]]>)
    for (const place of places) {
      const { id } = document.repairs[place];
      const old = known.get(id);
      if (old) known.set(id, { ...old, state });
    }
  const there = new Set(document.repairs.map((r) => r.id));
  const tiles = new Map([...now.pixels.tiles, ...pixels.tiles]);
  return {
    ...now,
    picture: { ...now.picture, revision },
    document,
    statuses: [...known.values()].filter((s) => there.has(s.id)),
    undo,
    redo,
    pixels: { ...pixels, tiles: [...tiles] },
    mark,
  };
}
