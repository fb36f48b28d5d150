import type { RequestHandler } from 'express';
import { Refused } from '../../contract/refused.ts';

/** Name in a Host header, without its port; null when there is none. */
export function hostName(header: string | undefined): string | null {
  const found = /^(\[[0-9a-f:.]+\]|[a-z0-9._-]+)(:\d{1,5})?$/i.exec(header ?? '');
  return found ? found[1].replace(/^\[|\]$/g, '').toLowerCase() : null;
}

/** Answers only under known names: a foreign page whose name was made to point here gets nothing. */
export const onlyKnownHosts =
  (allowed: ReadonlySet<string>): RequestHandler =>
  (req, _, next) => {
    const name = hostName(req.headers.host);
    if (name && (allowed.has(name) || allowed.has(req.headers.host!.toLowerCase()))) return next();
    next(
      new Refused(
        `This server is not asked under the name “${name ?? ''}”. Add it to TERSUM_ALLOWED_HOSTS if it is right.`,
        403,
      ),
    );
  };

/** Only pages of this server may ask it for anything: other sites in the same browser are turned away. */
export const onlyOwnPages: RequestHandler = (req, _, next) => {
  const { origin, host, 'sec-fetch-site': site } = req.headers;
  let own = site !== 'cross-site';
  if (origin !== undefined) own &&= URL.canParse(origin) && new URL(origin).host === host;
  next(own ? undefined : new Refused('Requests from other sites are not answered.', 403));
};
