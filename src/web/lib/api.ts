import { mutate } from 'swr';
import useSWRSubscription, { type SWRSubscriptionOptions } from 'swr/subscription';
import { useEffect, useSyncExternalStore } from 'react';
import type { PictureState, ServerEvent } from '../../contract/api.ts';
import { JOBS, PICTURES, SURVEYS, TASKS, VIEWS } from '../../contract/addresses.ts';
import { addressOf } from '../../contract/endpoint.ts';
import type { SurveyView } from '../../contract/survey.ts';
import { stampOf } from './stamp.ts';
import { RefusedError, useAnswer } from './http.ts';
import type { Box } from '../../core/raster/raster.ts';
import { useOptimistic } from './optimistic.ts';
import { followPicture, pictureOf, refreshPicture, refreshPictures } from './picture-store.ts';

export const useJobs = () => useAnswer(JOBS.list, {});
/** Reads the jobs again, wherever they are shown. */
export const refreshJobs = () => mutate(addressOf(JOBS.list, {}));
/** Names a piece of a picture and its pixels, in an address. */
export const pieceOf = ({ x, y, width, height }: Box, pixels: PictureState['pixels']) => ({
  x,
  y,
  width,
  height,
  v: stampOf(pixels),
});
/** Address of a piece of a picture, at most `side` px large. */
export const closeUpOf = (id: string, box: Box, pixels: PictureState['pixels'], side: number): string =>
  addressOf(VIEWS.closeUp, { id }, { ...pieceOf(box, pixels), side });
/** A picture's last survey, null when there was none. */
export const useSurvey = (id: string) => useAnswer(SURVEYS.read, { id }, { revalidateOnFocus: false });
/** Reads a survey again, or puts another in its place until it is read. */
export const refreshSurvey = (id: string, next?: SurveyView | null) =>
  mutate(addressOf(SURVEYS.read, { id }), ...(next === undefined ? [] : [next, { revalidate: false }]));
/** A picture, kept up to date, with edits shown from the moment they are asked for. */
export function usePicture(id: string) {
  const { data, error } = useSWRSubscription<PictureState, Error>(
    addressOf(PICTURES.read, { id }),
    (_: string, { next }: SWRSubscriptionOptions<PictureState, Error>) =>
      followPicture(id, () => {
        const now = pictureOf(id);
        next(now.error ?? null, now.data);
      }),
  );
  return { data: useOptimistic(id, data), error };
}

export type Task = Extract<ServerEvent, { type: 'task' }>;

let tasks: Task[] = [];
let connected = true;
const listeners = new Set<() => void>();
const tell = () => listeners.forEach((l) => l());

function receive(event: ServerEvent): void {
  if (event.type === 'jobs') void refreshJobs();
  else if (event.type === 'changed') refreshPicture(event.pictureId, event.mark);
  else if (event.type === 'survey') void refreshSurvey(event.pictureId);
  else {
    tasks = [...tasks.filter((t) => t.id !== event.id), event];
    // What there is to say stays until it is put away.
    if ((event.state === 'done' && !event.message) || event.state === 'cancelled') {
      const { id } = event;
      setTimeout(() => {
        tasks = tasks.filter((t) => t.id !== id);
        tell();
      }, 600);
    }
    tell();
  }
}

let source: EventSource | undefined;

/** Listens to the server for as long as the application is open; what was missed meanwhile is read again. */
export function useServerEvents(): void {
  useEffect(() => {
    source ??= new EventSource(addressOf(TASKS.events, {}));
    source.onmessage = (m) => receive(JSON.parse(m.data as string) as ServerEvent);
    source.onopen = () => {
      if (!connected) {
        void mutate(() => true);
        refreshPictures();
      }
      connected = true;
      tell();
    };
    source.onerror = () => {
      connected = false;
      tell();
    };
  }, []);
}

const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};
export const useTasks = () => useSyncExternalStore(subscribe, () => tasks);
export const useConnected = () => useSyncExternalStore(subscribe, () => connected);
export function dismissTask(id: string): void {
  tasks = tasks.filter((t) => t.id !== id);
  tell();
}

/** Sends a file with its progress (0…1 of the upload). */
export function upload(
  jobId: string,
  file: File,
  onProgress: (done: number) => void,
  signal: AbortSignal,
): Promise<{ id: string }> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open('POST', addressOf(JOBS.takeIn, { id: jobId }, { name: file.name }));
    request.setRequestHeader('Content-Type', 'application/octet-stream');
    request.upload.onprogress = (e) => e.lengthComputable && onProgress(e.loaded / e.total);
    request.onload = () => {
      const body = JSON.parse(request.responseText || '{}') as { id?: string; message?: string };
      if (request.status < 300 && body.id) resolve({ id: body.id });
      else reject(new RefusedError(body.message ?? 'The file was not taken in.', request.status));
    };
    request.onerror = () => reject(new RefusedError('The server cannot be reached. Is it still running?', 0));
    request.onabort = () => reject(new RefusedError('Stopped.', 0));
    signal.addEventListener('abort', () => request.abort());
    request.send(file);
  });
}
