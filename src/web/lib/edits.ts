import { useCallback, useMemo, useRef, useState } from 'react';
import type { Edit, EditAnswer, FillRequest, PictureState, StepAnswer } from '../../contract/api.ts';
import type { Point } from '../../core/mask/shapes.ts';
import { pictureKey, RefusedError, send } from './http.ts';
import { showAtOnce } from './pending.ts';
import { refreshPicture, sendChange, stateOf } from './picture-store.ts';

export type SaveState = 'saved' | 'saving' | 'failed';

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

/**
 * Sends edits one after another, retries what could not be sent, and says how saving stands. Refusals (the server
 * understood and said no) are not retried but shown.
 */
export function useEdits(pictureId: string) {
  const [state, setState] = useState<SaveState>('saved');
  const [refusal, setRefusal] = useState<string | null>(null);
  const queue = useRef<Promise<unknown>>(Promise.resolve());
  const waiting = useRef(0);

  const enqueue = useCallback(
    <T>(work: (once: string) => Promise<T>): Promise<T | null> => {
      waiting.current++;
      setState('saving');
      const once = Array.from(crypto.getRandomValues(new Uint8Array(12)), (b) => b.toString(16).padStart(2, '0')).join(
        '',
      );
      const mine = queue.current.then(async () => {
        for (let attempt = 0; ; attempt++) {
          try {
            return await work(once);
          } catch (error) {
            if (error instanceof RefusedError && error.status >= 400 && error.status < 500) {
              setRefusal(error.message);
              refreshPicture(pictureId);
              return null;
            }
            setState('failed');
            // The server says what is wrong, such as that its disk is full: people can do something about that.
            if (error instanceof RefusedError && error.status >= 500) setRefusal(error.message);
            await pause(Math.min(8000, 500 * 2 ** attempt));
            setState('saving');
          }
        }
      });
      queue.current = mine.finally(() => {
        waiting.current--;
        if (waiting.current === 0) setState('saved');
      });
      return mine;
    },
    [pictureId],
  );

  return useMemo(() => {
    const path = pictureKey(pictureId);
    return {
      edit: (edit: Edit) => {
        const answered = showAtOnce(pictureId, edit);
        return enqueue(async (once): Promise<PictureState> => {
          await sendChange(
            pictureId,
            (known) => send<EditAnswer>('POST', `${path}/edits`, edit, once, known),
            (answer) => answer,
          );
          return stateOf(pictureId)!;
        }).finally(answered);
      },
      step: (direction: 'undo' | 'redo') =>
        enqueue(async (once) => {
          const { label } = await sendChange(
            pictureId,
            (known) => send<StepAnswer>('POST', `${path}/${direction}`, undefined, once, known),
            (answer) => answer.changes,
          );
          return label;
        }),
      fill: (request: FillRequest) =>
        enqueue(async (once) => {
          const started = await send<{ repairId: string; taskId: string }>('POST', `${path}/fills`, request, once);
          refreshPicture(pictureId);
          return started;
        }),
      trace: (points: Point[]) =>
        enqueue(async (once): Promise<PictureState> => {
          await sendChange(
            pictureId,
            (known) => send<{ changes: EditAnswer }>('POST', `${path}/trace`, { points }, once, known),
            (answer) => answer.changes,
          );
          return stateOf(pictureId)!;
        }),
      mesh: (faultIds: string[]) =>
        enqueue((once) => send<{ taskId: string }>('POST', `${path}/mesh`, { faultIds }, once)),
      state,
      refusal,
      dismiss: () => setRefusal(null),
    };
  }, [pictureId, enqueue, state, refusal]);
}

export type Edits = ReturnType<typeof useEdits>;
