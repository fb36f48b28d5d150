import { z } from 'zod';
import { idSchema } from './document.ts';

/** Header that names a request, so that it is done once even if it comes again because its answer was lost. */
export const ONCE = 'Idempotency-Key';
/** Header that names the state a window knows, so that the answer holds what changed since. */
export const KNOWN_STATE = 'X-Known-State';
/** Header that names the window that a request comes from. */
export const WINDOW = 'X-Window';

const NOTHING = z.object({});
const BY_ID = z.object({ id: idSchema });

type Anything = z.ZodType<object>;
/** Names that a path holds, as in `/pictures/:id`. */
type Named<Path extends string> = Path extends `${string}:${infer Name}/${infer Rest}`
  ? Name | Named<`/${Rest}`>
  : Path extends `${string}:${infer Name}`
    ? Name
    : never;
/** What its names stand for. */
export type Names<Path extends string> = { [N in Named<Path>]: string | number };

/** What may be said of an endpoint beside its path. */
interface Parts<Params, Query, Body> {
  /** what names in its path stand for; an id where left out */
  params?: Params;
  query?: Query;
  /** JSON that is sent */
  body?: Body;
  /** of its answer */
  status?: number;
}

/** Something that the server can be asked: where, with what, and what it answers. Server and browser are typed by it. */
export interface Endpoint<
  Answer,
  Path extends string = string,
  Params extends Anything = Anything,
  Query extends Anything = Anything,
  Body extends z.ZodType = z.ZodType,
> {
  readonly method: 'GET' | 'POST' | 'PATCH' | 'DELETE';
  readonly path: Path;
  readonly params: Params;
  readonly query: Query;
  readonly body: Body | null;
  readonly status: number;
  /** never there: it carries the type */
  readonly answer?: Answer;
}

/** Describes an endpoint that answers JSON of a type, or, with `Raw`, bytes. */
export function answers<Answer>() {
  const of =
    (method: Endpoint<Answer>['method']) =>
    <
      Path extends string,
      Params extends Anything = typeof BY_ID,
      Query extends Anything = typeof NOTHING,
      Body extends z.ZodType = never,
    >(
      path: Path,
      { params, query, body, status = 200 }: Parts<Params, Query, Body> = {},
    ): Endpoint<Answer, Path, Params, Query, Body> => ({
      method,
      path,
      params: params ?? ((path.includes(':') ? BY_ID : NOTHING) as never),
      query: query ?? (NOTHING as never),
      body: body ?? null,
      status,
    });
  return { get: of('GET'), post: of('POST'), patch: of('PATCH'), delete: of('DELETE') };
}

/** Marks an endpoint whose answer is no JSON: a picture, a file, samples, events. */
export interface Raw {
  readonly raw: true;
}

/** Path of an endpoint with what its names stand for, and with a query where there is one. */
export function addressOf<Path extends string, Query extends Anything>(
  endpoint: Pick<Endpoint<unknown, Path, Anything, Query>, 'path' | 'query'>,
  names: Names<Path>,
  query: z.input<Query> | Record<string, never> = {},
): string {
  const path = endpoint.path.replace(/:(\w+)/g, (_, name: string) =>
    encodeURIComponent(String((names as Record<string, string | number>)[name])),
  );
  const said = Object.entries<unknown>(query as Record<string, unknown>).filter(
    ([, value]) => value !== undefined && value !== null,
  );
  const text = new URLSearchParams(said.map(([name, value]) => [name, String(value)])).toString();
  return `/api${path}${text && `?${text}`}`;
}
