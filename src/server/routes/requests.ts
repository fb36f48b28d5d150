import { createHash } from 'node:crypto';
import type { Request, Response } from 'express';
import { z } from 'zod';
import { idSchema } from '../../contract/document.ts';
import type { RequestName } from '../store/journal.ts';

/** For what never changes under its address. */
export const FOREVER = 'private, max-age=31536000, immutable';

/** The id in a request's path. */
export const idOf = (req: Request, name = 'id'): string => z.object({ [name]: idSchema }).parse(req.params)[name];

const keySchema = z.object({ 'Idempotency-Key': z.string().min(1).max(64).optional() });

/** The name under which a request is done only once for a picture and a route, however often it comes. */
export function requestName(req: Request, route: string): RequestName | undefined {
  const { 'Idempotency-Key': name } = keySchema.parse({ 'Idempotency-Key': req.get('Idempotency-Key') });
  if (!name) return undefined;
  const digest = createHash('sha256')
    .update(JSON.stringify(req.body ?? null))
    .digest('hex');
  return { route, name, digest };
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
