import { Router } from 'express';
import { exportQuerySchema } from '../../contract/api.ts';
import { newId } from '../../contract/ids.ts';
import type { Studio } from '../studio.ts';
import { idOf, signalOf } from './requests.ts';

const MEDIA = {
  png: ['image/png', 'png'],
  tiff: ['image/tiff', 'tif'],
  jpeg: ['image/jpeg', 'jpg'],
  ora: ['image/openraster', 'ora'],
  covers: ['application/zip', 'covers.zip'],
} as const;

/** Files for delivery. */
export function exportRoutes({ exports, tasks }: Studio): Router {
  const routes = Router();
  /** Waits for all renderings; refuses with what is missing, so that a window can say so before it saves a file. */
  routes.get('/pictures/:id/export/ready', async (req, res) => {
    const { missing } = exportQuerySchema.pick({ missing: true }).parse(req.query);
    res.json({ repairs: await exports.ready(idOf(req), missing, signalOf(res)) });
  });
  routes.get('/pictures/:id/export', async (req, res) => {
    const asked = exportQuerySchema.parse(req.query);
    const id = idOf(req);
    const { name, bytes } = await tasks.run(
      id,
      `Export ${asked.format.toUpperCase()}`,
      (signal, onProgress) => exports.make(id, asked, { signal, onProgress }),
      newId(),
      signalOf(res),
    );
    const [type, ending] = MEDIA[asked.format];
    res
      .attachment(`${name.replace(/\.[a-z0-9]+$/i, '')} repaired.${ending}`)
      .type(type)
      .send(Buffer.from(bytes));
  });
  return routes;
}
