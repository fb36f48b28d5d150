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

export async function get<T>(path: string, signal?: AbortSignal): Promise<T> {
  return answer<T>(await (signal ? fetch(path, { signal }) : fetch(path)));
}

/**
 * @param once names a request, so that the server does it once even if it comes again because its answer was lost
 * @param known names the state of the picture that this window knows, so that the answer holds what changed since
 */
export async function send<T>(
  method: 'POST' | 'PATCH' | 'DELETE',
  path: string,
  body?: unknown,
  once?: string,
  known?: string,
): Promise<T> {
  return answer<T>(
    await fetch(path, {
      method,
      headers: {
        ...(body === undefined ? {} : { 'Content-Type': 'application/json' }),
        ...(once ? { 'Idempotency-Key': once } : {}),
        ...(known ? { 'X-Known-State': known } : {}),
      },
      body: body === undefined ? undefined : JSON.stringify(body),
    }),
  );
}

/** Address of a picture, which is also what it is kept under. */
export const pictureKey = (id: string) => `/api/pictures/${id}`;
