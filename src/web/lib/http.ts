import useSWR, { type SWRConfiguration } from 'swr';
import type { z } from 'zod';
import { addressOf, KNOWN_STATE, ONCE, WINDOW, type Endpoint, type Names } from '../../contract/endpoint.ts';

/** A refusal of the server, with its message for people. */
export class RefusedError extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

async function answer<T>(response: Response): Promise<T> {
  if (response.ok) return (await response.json()) as T;
  const body = (await response.json().catch(() => null)) as { message?: string } | null;
  // The session has ended: the server asks for its password again.
  if (response.status === 401) location.assign('/login');
  throw new RefusedError(body?.message ?? `The server answered ${response.status}.`, response.status);
}

/** Names this window for as long as it is open. */
const WINDOW_NAME = Array.from(crypto.getRandomValues(new Uint8Array(8)), (v) => v.toString(16).padStart(2, '0')).join(
  '',
);

/** What goes along with a request. */
interface Along<Query, Body> {
  query?: Query;
  body?: Body;
  /** names a request, so that the server does it once even if it comes again because its answer was lost */
  once?: string;
  /** names the state of the picture that this window knows, so that the answer holds what changed since */
  known?: string;
  signal?: AbortSignal;
}

/**
 * Asks the server for something that the contract describes.
 * @throws RefusedError
 */
export async function call<
  Answer,
  Path extends string,
  Params extends z.ZodType<object>,
  Query extends z.ZodType<object>,
  Body extends z.ZodType,
>(
  endpoint: Endpoint<Answer, Path, Params, Query, Body>,
  names: Names<Path>,
  { query, body, once, known, signal }: Along<z.input<Query>, z.input<Body>> = {},
): Promise<Answer> {
  const headers: Record<string, string> = {};
  if (body !== undefined) headers['Content-Type'] = 'application/json';
  if (once) {
    headers[ONCE] = once;
    headers[WINDOW] = WINDOW_NAME;
  }
  if (known) headers[KNOWN_STATE] = known;
  const init: RequestInit = { method: endpoint.method, headers };
  if (body !== undefined) init.body = JSON.stringify(body);
  if (signal) init.signal = signal;
  return answer<Answer>(await fetch(addressOf<Path, Query>(endpoint, names, query), init));
}

/** Sends a file as it is and hears what the server says of it. @throws RefusedError */
export async function sendFile<T>(address: string, file: Blob, signal?: AbortSignal): Promise<T> {
  const headers = { 'Content-Type': 'application/octet-stream' };
  return answer<T>(await fetch(address, { method: 'POST', headers, body: file, ...(signal && { signal }) }));
}

/** What the server answers, kept under the endpoint's address; `null` names nothing to ask for. */
export function useAnswer<Answer, Path extends string>(
  endpoint: Endpoint<Answer, Path>,
  names: Names<Path> | null,
  options?: SWRConfiguration<Answer, RefusedError>,
) {
  return useSWR<Answer, RefusedError>(names && addressOf(endpoint, names), () => call(endpoint, names!, {}), options);
}
