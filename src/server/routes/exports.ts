import { Router } from 'express';
import { EXPORTS } from '../../contract/addresses.ts';
import { EXPORTED } from '../../contract/exports.ts';
import { newId } from '../../contract/ids.ts';
import type { Studio } from '../studio.ts';
import { signalOf } from './requests.ts';
import { serve } from './serve.ts';

/** Files for delivery. */
export function exportRoutes({ exports, tasks }: Studio): Router {
  const routes = Router();
  serve(routes, EXPORTS.ready, async ({ params: { id }, query: { missing }, res }) => ({
    repairs: await exports.ready(id, missing, signalOf(res)),
  }));
  serve(routes, EXPORTS.file, async ({ params: { id }, query, res }) => {
    const { name, bytes } = await tasks.run(
      id,
      `Export ${query.format.toUpperCase()}`,
      (signal, onProgress) => exports.make(id, query, { signal, onProgress }),
      newId(),
      signalOf(res),
    );
    const { media, ending } = EXPORTED[query.format];
    res
      .attachment(`${name.replace(/\.[a-z0-9]+$/i, '')} repaired.${ending}`)
      .type(media)
      .send(Buffer.from(bytes));
  });
  return routes;
}
