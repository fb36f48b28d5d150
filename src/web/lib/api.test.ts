import { EXPORTS, JOBS, PICTURES, VIEWS } from '../../contract/addresses.ts';
import { addressOf } from '../../contract/endpoint.ts';
import { closeUpOf, upload } from './api.ts';
import { call, RefusedError } from './http.ts';

const asked: Array<{ path: string; init?: RequestInit }> = [];

/** Answers the next requests with what is given. */
function answering(status: number, body: unknown): void {
  asked.length = 0;
  globalThis.fetch = ((path: string, init?: RequestInit) => {
    asked.push({ path, init });
    const text = typeof body === 'string' ? body : JSON.stringify(body);
    return Promise.resolve(new Response(text, { status }));
  }) as typeof fetch;
}

describe('asking the server', () => {
  test('what it answers is handed on', async () => {
    answering(200, [{ id: 'a' }]);
    expect(await call(JOBS.list, {})).toEqual([{ id: 'a' }]);
    expect(asked).toEqual([{ path: '/api/jobs', init: { method: 'GET', headers: {} } }]);
  });

  test('a refusal keeps its message and its status', async () => {
    answering(413, { message: 'The file has 300 megabytes; at most 200 are taken in.' });
    const refusal = await call(JOBS.list, {}).catch((e: unknown) => e as RefusedError);
    expect(refusal).toBeInstanceOf(RefusedError);
    expect(refusal).toMatchObject({ status: 413, message: 'The file has 300 megabytes; at most 200 are taken in.' });
  });

  test('a refusal without words still says what happened', async () => {
    answering(502, '<html>Bad gateway</html>');
    await expect(call(JOBS.list, {})).rejects.toMatchObject({ status: 502, message: 'The server answered 502.' });
  });

  test('what is sent goes as JSON, under one name when it must happen once', async () => {
    answering(200, { ok: true });
    await call(PICTURES.edit, { id: 'p' }, { body: { type: 'removeFault', id: 'f' }, once: 'once-1', known: 'e.4' });
    await call(JOBS.remove, { id: 'j' });
    const [first, second] = asked.map((a) => a.init!);
    expect(first.method).toBe('POST');
    expect(first.headers).toEqual({
      'Content-Type': 'application/json',
      'Idempotency-Key': 'once-1',
      'X-Known-State': 'e.4',
      'X-Window': expect.stringMatching(/^[0-9a-f]{16}$/),
    });
    expect(JSON.parse(first.body as string)).toEqual({ type: 'removeFault', id: 'f' });
    expect([second.method, second.headers, second.body]).toEqual(['DELETE', {}, undefined]);
  });
});

describe('sending a file', () => {
  /** A request that a test answers by hand. */
  class Request {
    static last: Request;
    static sent: unknown;
    upload: { onprogress?: (e: { lengthComputable: boolean; loaded: number; total: number }) => void } = {};
    onload?: () => void;
    onerror?: () => void;
    onabort?: () => void;
    status = 0;
    responseText = '';
    opened: string[] = [];
    headers: Record<string, string> = {};
    constructor() {
      Request.last = this;
    }
    open(...args: string[]) {
      this.opened = args;
    }
    setRequestHeader(name: string, value: string) {
      this.headers[name] = value;
    }
    send(body: unknown) {
      Request.sent = body;
    }
    abort() {
      this.onabort?.();
    }
    answer(status: number, text: string) {
      this.status = status;
      this.responseText = text;
      this.onload?.();
    }
  }
  beforeAll(() => {
    (globalThis as unknown as { XMLHttpRequest: unknown }).XMLHttpRequest = Request;
  });
  const file = new File([new Uint8Array(10)], 'old print & co.jpg');
  const sending = (stop = new AbortController()) => {
    const seen: number[] = [];
    return { done: upload('j1', file, (f) => seen.push(f), stop.signal), seen, stop };
  };

  test('goes with its name, tells how far it is, and ends with the picture', async () => {
    const { done, seen } = sending();
    const request = Request.last;
    expect(request.opened).toEqual(['POST', '/api/jobs/j1/pictures?name=old+print+%26+co.jpg']);
    expect(request.headers).toEqual({ 'Content-Type': 'application/octet-stream' });
    expect(Request.sent).toBe(file);
    request.upload.onprogress!({ lengthComputable: true, loaded: 5, total: 10 });
    request.upload.onprogress!({ lengthComputable: false, loaded: 7, total: 0 });
    request.upload.onprogress!({ lengthComputable: true, loaded: 10, total: 10 });
    request.answer(201, '{"id":"p9"}');
    expect(await done).toEqual({ id: 'p9' });
    expect(seen).toEqual([0.5, 1]);
  });

  test('refused, cut off and stopped it says which', async () => {
    const refused = sending();
    Request.last.answer(400, '{"message":"The file is empty. Export or scan it again."}');
    await expect(refused.done).rejects.toMatchObject({ status: 400, message: /^The file is empty/ });
    const wordless = sending();
    Request.last.answer(500, '');
    await expect(wordless.done).rejects.toMatchObject({ status: 500, message: 'The file was not taken in.' });
    const cut = sending();
    Request.last.onerror!();
    await expect(cut.done).rejects.toMatchObject({ status: 0, message: /cannot be reached/ });
    const stopped = sending();
    stopped.stop.abort();
    await expect(stopped.done).rejects.toMatchObject({ status: 0, message: 'Stopped.' });
  });
});

test('addresses are filled in as the contract has them; what is not said is left out', () => {
  expect(addressOf(JOBS.list, {})).toBe('/api/jobs');
  expect(addressOf(VIEWS.tile, { id: 'p', view: 'only-abc', version: 'e.1', level: 2, x: 0, y: 7 })).toBe(
    '/api/pictures/p/tiles/only-abc/e.1/2/0/7',
  );
  expect(addressOf(PICTURES.read, { id: 'a/b' }, { since: undefined })).toBe('/api/pictures/a%2Fb');
  expect(addressOf(EXPORTS.file, { id: 'p' }, { format: 'png', missing: 'leave' })).toBe(
    '/api/pictures/p/export?format=png&missing=leave',
  );
});

test('the address of a piece changes with the pixels, so that it may be kept', () => {
  const box = { x: -3, y: 4, width: 50, height: 60 };
  const at = (version: number) => closeUpOf('p', box, { epoch: 'e1', version } as never, 64);
  expect(at(7)).toBe('/api/pictures/p/close-up?x=-3&y=4&width=50&height=60&v=e1.7&side=64');
  expect(at(8)).not.toBe(at(7));
});
