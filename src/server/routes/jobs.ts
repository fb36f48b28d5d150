import { Router } from 'express';
import { JOBS } from '../../contract/addresses.ts';
import { newId } from '../../contract/ids.ts';
import { startJoin } from '../services/joins.ts';
import type { Studio } from '../studio.ts';
import { serve } from './serve.ts';

/** Jobs. */
export function jobRoutes(studio: Studio): Router {
  const { store, events } = studio;
  const routes = Router();
  serve(routes, JOBS.list, () => store.listJobs());
  serve(routes, JOBS.create, async ({ body }) => {
    const id = await store.createJob(body);
    events.send({ type: 'jobs' });
    return { id };
  });
  serve(routes, JOBS.change, async ({ params, body }) => {
    await store.changeJob(params.id, body);
    events.send({ type: 'jobs' });
    return {};
  });
  serve(routes, JOBS.remove, async ({ params }) => {
    await studio.removeJob(params.id);
    events.send({ type: 'jobs' });
    return {};
  });
  serve(routes, JOBS.join, async ({ params, body }) => {
    const taskId = newId();
    await startJoin(studio, params.id, body, taskId);
    return { taskId };
  });
  return routes;
}
