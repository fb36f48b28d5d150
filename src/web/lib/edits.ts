import { useEffect, useMemo, useSyncExternalStore } from 'react';
import type { Edit, EditAnswer, FillRequest, PictureState, StepAnswer } from '../../contract/api.ts';
import type { Point } from '../../core/mask/shapes.ts';
import { pictureKey, send } from './http.ts';
import { browserDrawer, Outbox, type Letter } from './outbox.ts';
import { showAtOnce } from './pending.ts';
import { refreshPicture, sendChange, stateOf } from './picture-store.ts';

/** What is sent and not answered yet, by picture; it goes on when its page is left. */
const outboxes = new Map<string, Outbox>();

function outboxOf(pictureId: string): Outbox {
  let box = outboxes.get(pictureId);
  if (!box) {
    box = new Outbox(
      (letter) => deliver(pictureId, letter),
      browserDrawer(pictureId),
      () => refreshPicture(pictureId),
    );
    outboxes.set(pictureId, box);
    window.addEventListener('online', box.retry);
  }
  return box;
}

function deliver(pictureId: string, { what, body, once }: Letter): Promise<unknown> {
  const path = `${pictureKey(pictureId)}/${what}`;
  const post = <T>(known?: string) => send<T>('POST', path, body, once, known);
  switch (what) {
    case 'edits':
      return sendChange(
        pictureId,
        (known) => post<EditAnswer>(known),
        (answer) => answer,
      );
    case 'undo':
    case 'redo':
      return sendChange(
        pictureId,
        (known) => post<StepAnswer>(known),
        (answer) => answer.changes,
      );
    case 'trace':
      return sendChange(
        pictureId,
        (known) => post<{ changes: EditAnswer }>(known),
        (answer) => answer.changes,
      );
    case 'fills':
      return post().finally(() => refreshPicture(pictureId));
    case 'mesh':
      return post();
  }
}

/** Sends edits one after another, until each is answered, and says how saving stands. What is not answered outlives the window. */
export function useEdits(pictureId: string) {
  const outbox = outboxOf(pictureId);
  const standing = useSyncExternalStore(outbox.subscribe, () => outbox.standing);
  useEffect(() => void outbox.restore(), [outbox]);

  const ways = useMemo(() => {
    /** The picture as it is once an answer is there; null where it was refused. */
    const shown = (answer: unknown): PictureState | null => (answer === null ? null : stateOf(pictureId)!);
    return {
      edit: (edit: Edit) => {
        const answered = showAtOnce(pictureId, edit);
        return outbox.post('edits', edit).then(shown).finally(answered);
      },
      step: (direction: 'undo' | 'redo') => outbox.post<StepAnswer>(direction).then((a) => a?.label ?? null),
      fill: (request: FillRequest) => outbox.post<{ repairId: string; taskId: string }>('fills', request),
      trace: (points: Point[]) => outbox.post('trace', { points }).then(shown),
      mesh: (faultIds: string[]) => outbox.post<{ taskId: string }>('mesh', { faultIds }),
      dismiss: outbox.dismiss,
    };
  }, [pictureId, outbox]);
  return useMemo(() => ({ ...ways, ...standing }), [ways, standing]);
}

export type Edits = ReturnType<typeof useEdits>;
