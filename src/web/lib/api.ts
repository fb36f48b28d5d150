import useSWR, { mutate } from 'swr';
import useSWRSubscription, { type SWRSubscriptionOptions } from 'swr/subscription';
import { useEffect, useSyncExternalStore } from 'react';
import type { PictureState, ServerEvent } from '../../contract/api.ts';
import type { Survey } from '../../contract/survey.ts';
import type { Job } from '../../contract/studio.ts';
import { get, pictureKey, RefusedError } from './http.ts';
import type { Box } from '../../core/raster/raster.ts';
import { useOptimistic } from './optimistic.ts';
import { followPicture, pictureOf, refreshPicture, refreshPictures } from './picture-store.ts';

export const useJobs = () => useSWR<Job[]>('/api/jobs', get);
/** Part of an address that names a piece of a picture, and its pixels, which may be kept for as long as they are the same. */
export const pieceOf = ({ x, y, width, height }: Box, { epoch, version }: PictureState['pixels']): string =>
  `x=${x}&y=${y}&width=${width}&height=${height}&v=${epoch}.${version}`;
export const surveyKey = (id: string) => `/api/pictures/${id}/survey`;
export type SurveyView = Survey & { taken: Record<string, string> };
/** A picture's last survey, null when there was none. */
export const useSurvey = (id: string) => useSWR<SurveyView | null>(surveyKey(id), get, { revalidateOnFocus: false });
/** A picture, kept up to date, with edits shown from the moment they are asked for. */
export function usePicture(id: string) {
  const { data, error } = useSWRSubscription<PictureState, Error>(
    pictureKey(id),
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
  if (event.type === 'jobs') void mutate('/api/jobs');
  else if (event.type === 'changed') refreshPicture(event.pictureId, event.mark);
  else if (event.type === 'survey') void mutate(surveyKey(event.pictureId));
  else {
    tasks = [...tasks.filter((t) => t.id !== event.id), event];
    if (event.state === 'done' || event.state === 'cancelled') {
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
    source ??= new EventSource('/api/events');
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
    request.open('POST', `/api/jobs/${jobId}/pictures?name=${encodeURIComponent(file.name)}`);
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
