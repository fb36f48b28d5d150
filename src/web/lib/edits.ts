import { useEffect, useMemo, useSyncExternalStore } from 'react';
import { PICTURES } from '../../contract/addresses.ts';
import type { Edit, FillRequest, PictureState, StepAnswer } from '../../contract/api.ts';
import type { Point } from '../../core/mask/shapes.ts';
import { call } from './http.ts';
import { browserDrawer, nextName, Outbox, type Letter } from './outbox.ts';
import { optimistOf, type Asked } from './optimistic.ts';
import { refreshPicture, sendChange, stateOf } from './picture-store.ts';

/** What is sent and not answered yet, by picture; it goes on when its page is left. */
const outboxes = new Map<string, Outbox>();
/** What is shown before it is answered, by the name of its letter. */
const asked = new Map<string, Asked>();

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
  const names = { id: pictureId };
  /** From here on the answer is shown; at once with it, so that nothing shows twice, and never goes back to what it was before. */
  const onShown = () => asked.get(once)?.end();
  // What waits in the browser was written by this application, if not by this window: the server checks it in any case.
  const along = (known?: string) => ({ body: body as never, once, known });
  switch (what) {
    case 'edits':
      return sendChange(
        pictureId,
        (known) => call(PICTURES.edit, names, along(known)),
        (answer) => answer,
        onShown,
      );
    case 'undo':
    case 'redo':
      return sendChange(
        pictureId,
        (known) => call(PICTURES[what], names, { once, known }),
        (answer) => answer.changes,
        onShown,
      );
    case 'trace':
      return sendChange(
        pictureId,
        (known) => call(PICTURES.trace, names, along(known)),
        (answer) => answer.changes,
      );
    case 'fills':
      return call(PICTURES.fill, names, along()).finally(() => refreshPicture(pictureId));
    case 'mesh':
      return call(PICTURES.mesh, names, along());
  }
}

/** Sends edits one after another, until each is answered, and says how saving stands. What is not answered outlives the window. */
export function useEdits(pictureId: string) {
  const outbox = outboxOf(pictureId);
  const standing = useSyncExternalStore(outbox.subscribe, () => outbox.standing);
  useEffect(() => {
    void outbox.restore(({ what, body, once }, answer) => {
      if (what !== 'edits') return;
      const shown = optimistOf(pictureId).again(body as Edit, once);
      asked.set(once, shown);
      void answer.then((a) => {
        asked.delete(once);
        shown.end();
        shown.answered(a === null ? null : (stateOf(pictureId)?.undo ?? ''));
      });
    });
  }, [outbox, pictureId]);

  const ways = useMemo(() => {
    const optimist = optimistOf(pictureId);
    const post = async <T>(what: Letter['what'], body: unknown, shown: Asked, once = nextName()): Promise<T | null> => {
      asked.set(once, shown);
      const answer = await outbox.post<T>(what, body, once);
      asked.delete(once);
      shown.end();
      shown.answered(answer === null ? null : (stateOf(pictureId)?.undo ?? ''));
      return answer;
    };
    /** The picture as it is once an answer is there; null where it was refused. */
    const shown = (answer: unknown): PictureState | null => (answer === null ? null : stateOf(pictureId)!);
    return {
      /** @param once a name for the request, from which those of the rows that it makes follow */
      edit: (edit: Edit, once = nextName()) => {
        return post('edits', edit, optimist.edit(stateOf(pictureId), edit, once), once).then(shown);
      },
      step: (direction: 'undo' | 'redo') =>
        post<StepAnswer>(direction, undefined, optimist.step(stateOf(pictureId), direction)).then(
          (a) => a?.label ?? null,
        ),
      fill: (request: FillRequest) => post<{ repairId: string; taskId: string }>('fills', request, optimist.unknown()),
      trace: (points: Point[]) => post('trace', { points }, optimist.unknown()).then(shown),
      mesh: (faultIds: string[]) => post<{ taskId: string }>('mesh', { faultIds }, optimist.unknown()),
      dismiss: outbox.dismiss,
    };
  }, [pictureId, outbox]);
  return useMemo(() => ({ ...ways, ...standing }), [ways, standing]);
}

export type Edits = ReturnType<typeof useEdits>;
