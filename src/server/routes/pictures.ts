import { Router, type Request } from 'express';
import { PICTURES } from '../../contract/addresses.ts';
import type { EditAnswer } from '../../contract/api.ts';
import { newId } from '../../contract/ids.ts';
import type { TraceAnswer } from '../../contract/survey.ts';
import { joinAgain } from '../services/joins.ts';
import { startMesh, traceFault } from '../services/surveys.ts';
import type { Studio } from '../studio.ts';
import { known, knownState, requestName, signalOf } from './requests.ts';
import { serve } from './serve.ts';

/** A picture's document: reading it, changing it, undo and redo, fills, the time spent. */
export function pictureRoutes(studio: Studio): Router {
  const { store, pictures, editing, renderings, events } = studio;
  const routes = Router();

  /** Does something to a picture and answers what it changed: since the window's own mark, or else since just before. */
  const changed = (req: Request, id: string, work: () => Promise<unknown>): Promise<EditAnswer> =>
    pictures.use(id, async (picture) => {
      const mark = knownState(req) ?? pictures.markOf(picture);
      await work();
      return pictures.changesOf(picture, mark) ?? pictures.state(id);
    });

  serve(routes, PICTURES.read, ({ params: { id }, query: { since } }) =>
    since ? pictures.since(id, since) : pictures.state(id),
  );
  serve(routes, PICTURES.remove, async ({ params: { id } }) => {
    await studio.removePicture(id);
    events.send({ type: 'jobs' });
    return {};
  });
  serve(routes, PICTURES.edit, ({ params: { id }, body, req }) =>
    changed(req, id, () => editing.edit(id, body, requestName(req, 'edits'))),
  );
  for (const [route, direction] of [
    ['undo', -1],
    ['redo', 1],
  ] as const)
    serve(routes, PICTURES[route], async ({ params: { id }, req }) => {
      let label: string | null = null;
      const changes = await changed(req, id, async () => {
        label = await editing.step(id, direction, requestName(req, route), knownState(req));
      });
      return { label, changes };
    });
  serve(routes, PICTURES.fill, ({ params: { id }, body, req }) => editing.fill(id, body, requestName(req, 'fills')));
  serve(routes, PICTURES.treat, ({ params: { id }, body, req }) =>
    editing.treat(id, body.faultIds, requestName(req, 'treat')),
  );
  serve(routes, PICTURES.trace, async ({ params: { id }, body, req, res }) => {
    const signal = signalOf(res);
    let strand: TraceAnswer | undefined;
    const changes = await changed(req, id, async () => {
      strand = await traceFault(studio, id, body.points, requestName(req, 'trace'), signal);
    });
    return { strand: strand!, changes };
  });
  serve(routes, PICTURES.mesh, async ({ params: { id }, body }) => {
    const taskId = newId();
    await startMesh(studio, id, body.faultIds, taskId);
    return { taskId };
  });
  serve(routes, PICTURES.joinAgain, async ({ params: { id }, body }) => {
    const taskId = newId();
    await joinAgain(studio, id, body, taskId);
    return { taskId };
  });
  serve(routes, PICTURES.renderAgain, async ({ params: { id } }) => {
    await renderings.retry(id);
    return {};
  });
  serve(routes, PICTURES.hold, async ({ params: { id }, body }) => {
    await known(studio, id);
    renderings.hold(id, body.held);
    return {};
  });
  serve(routes, PICTURES.subject, async ({ params: { id } }) => {
    await known(studio, id);
    return store.subject(id);
  });
  serve(routes, PICTURES.setSubject, async ({ params: { id }, body }) => {
    await known(studio, id);
    await store.setSubject(id, body.shapes);
    return {};
  });
  serve(routes, PICTURES.work, async ({ params: { id } }) => {
    await known(studio, id);
    return store.workLog(id);
  });
  serve(routes, PICTURES.logWork, async ({ params: { id }, body: { kind, seconds } }) => {
    await known(studio, id);
    await store.logWork(id, kind, seconds);
    return store.workLog(id);
  });
  return routes;
}
