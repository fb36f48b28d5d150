import { Router, type Request } from 'express';
import { z } from 'zod';
import { editSchema, fillRequestSchema, workSchema, type EditAnswer, type StepAnswer } from '../../contract/api.ts';
import { traceRequestSchema, treatRequestSchema } from '../../contract/survey.ts';
import { Refused } from '../../contract/refused.ts';
import { traceFault } from '../services/surveys.ts';
import type { Studio } from '../studio.ts';
import { idOf, requestName, signalOf } from './requests.ts';

const sinceSchema = z.object({ since: z.string().max(60).optional() });
/** What the window knows, with which a request that changes something is sent. */
const KNOWN = 'X-Known-State';

/** A picture's document: reading it, changing it, undo and redo, fills, the time spent. */
export function pictureRoutes(studio: Studio): Router {
  const { store, pictures, editing, renderings, events } = studio;
  const routes = Router();

  /** Does something to a picture and answers what it changed: since the window's own mark, or else since just before. */
  const changed = async (req: Request, work: (id: string) => Promise<void>): Promise<EditAnswer> => {
    const id = idOf(req);
    const { since } = sinceSchema.parse({ since: req.get(KNOWN) });
    return pictures.use(id, async (picture) => {
      const mark = since ?? pictures.markOf(picture);
      await work(id);
      return pictures.changesOf(picture, mark) ?? pictures.state(id);
    });
  };

  routes.get('/pictures/:id', async (req, res) => {
    const { since } = sinceSchema.parse(req.query);
    res.json(since ? await pictures.since(idOf(req), since) : await pictures.state(idOf(req)));
  });
  routes.delete('/pictures/:id', async (req, res) => {
    await studio.removePicture(idOf(req));
    events.send({ type: 'jobs' });
    res.json({});
  });
  routes.post('/pictures/:id/edits', async (req, res) => {
    const edit = editSchema.parse(req.body);
    res.json(await changed(req, (id) => editing.edit(id, edit, requestName(req, 'edits')).then(() => undefined)));
  });
  for (const [route, direction] of [
    ['undo', -1],
    ['redo', 1],
  ] as const) {
    routes.post(`/pictures/:id/${route}`, async (req, res) => {
      let label: string | null = null;
      const changes = await changed(req, async (id) => {
        label = await editing.step(id, direction, requestName(req, route));
      });
      res.json({ label, changes } satisfies StepAnswer);
    });
  }
  routes.post('/pictures/:id/fills', async (req, res) => {
    const fill = fillRequestSchema.parse(req.body);
    res.status(202).json(await editing.fill(idOf(req), fill, requestName(req, 'fills')));
  });
  routes.post('/pictures/:id/treat', async (req, res) => {
    const { faultIds } = treatRequestSchema.parse(req.body);
    res.status(202).json(await editing.treat(idOf(req), faultIds, requestName(req, 'treat')));
  });
  routes.post('/pictures/:id/trace', async (req, res) => {
    const { points } = traceRequestSchema.parse(req.body);
    const signal = signalOf(res);
    let strand: unknown;
    const changes = await changed(req, async (id) => {
      strand = await traceFault(studio, id, points, requestName(req, 'trace'), signal);
    });
    res.json({ strand, changes });
  });
  /** Renders again what could not be rendered. */
  routes.post('/pictures/:id/renderings', async (req, res) => {
    await renderings.retry(idOf(req));
    res.status(202).json({});
  });

  routes.get('/pictures/:id/work', async (req, res) => {
    await known(studio, idOf(req));
    res.json(await store.workLog(idOf(req)));
  });
  routes.post('/pictures/:id/work', async (req, res) => {
    const { kind, seconds } = workSchema.parse(req.body);
    await known(studio, idOf(req));
    await store.logWork(idOf(req), kind, seconds);
    res.json(await store.workLog(idOf(req)));
  });
  return routes;
}

/** @throws Refused when there is no such picture */
export async function known({ store }: Studio, id: string): Promise<void> {
  if (!(await store.picture(id))) throw new Refused('This picture no longer exists.', 404);
}
