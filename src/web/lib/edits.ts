import { useCallback, useMemo, useRef, useState } from 'react';
import { mutate } from 'swr';
import type { Edit, FillRequest, PictureState } from '../../contract/api.ts';
import type { Point } from '../../core/mask/shapes.ts';
import { pictureKey, RefusedError, send } from './api.ts';
import { showAtOnce } from './pending.ts';

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
              void mutate(pictureKey(pictureId));
              return null;
            }
            setState('failed');
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
        return enqueue(async (once) => {
          const next = await send<PictureState>('POST', `${path}/edits`, edit, once);
          await mutate(path, next, { revalidate: false });
          return next;
        }).finally(answered);
      },
      step: (direction: 'undo' | 'redo') =>
        enqueue(async (once) => {
          const { label, state: next } = await send<{ label: string | null; state: PictureState }>(
            'POST',
            `${path}/${direction}`,
            undefined,
            once,
          );
          await mutate(path, next, { revalidate: false });
          return label;
        }),
      fill: (request: FillRequest) =>
        enqueue(async (once) => {
          const started = await send<{ repairId: string; taskId: string }>('POST', `${path}/fills`, request, once);
          await mutate(path);
          return started;
        }),
      trace: (points: Point[]) =>
        enqueue(async (once) => {
          const { state: next } = await send<{ state: PictureState }>('POST', `${path}/trace`, { points }, once);
          await mutate(path, next, { revalidate: false });
          return next;
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
