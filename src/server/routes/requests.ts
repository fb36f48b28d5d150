import { createHash } from 'node:crypto';
import type { Request, Response } from 'express';
import { z } from 'zod';
import { KNOWN_STATE, ONCE, WINDOW } from '../../contract/endpoint.ts';
import { Refused } from '../../contract/refused.ts';
import type { RequestName } from '../store/journal.ts';
import type { Studio } from '../studio.ts';

/** For what never changes under its address. */
export const FOREVER = 'private, max-age=31536000, immutable';

/** What the window knows, with which a request that changes something is sent. */
export const knownState = (req: Request): string | undefined =>
  z.string().max(60).optional().parse(req.get(KNOWN_STATE));

/** @throws Refused when there is no such picture */
export async function known({ store }: Studio, id: string): Promise<void> {
  if (!(await store.picture(id))) throw new Refused('This picture no longer exists.', 404);
}

/** The name under which a request is done only once for a picture and a route, however often it comes. */
export function requestName(req: Request, route: string): RequestName | undefined {
  const name = z.string().min(1).max(64).optional().parse(req.get(ONCE));
  if (!name) return undefined;
  const digest = createHash('sha256')
    .update(JSON.stringify(req.body ?? null))
    .digest('hex');
  const window = z.string().max(64).optional().parse(req.get(WINDOW));
  return { route, name, digest, ...(window && { window }) };
}

/** Aborts when whoever asked goes away before the answer. */
export function signalOf(res: Response): AbortSignal {
  const controller = new AbortController();
  res.once('close', () => {
    if (!res.writableFinished) controller.abort();
  });
  return controller.signal;
}

/** Sends a picture file for the browser. `version`, where given, is part of the address: then it may be kept. */
export function sendPicture(
  res: Response,
  { bytes, type }: { bytes: Uint8Array; type: string },
  version: unknown,
): void {
  res
    .set('Cache-Control', version ? FOREVER : 'no-store')
    .type(type)
    .send(Buffer.from(bytes));
}
