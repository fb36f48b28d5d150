import { Router } from 'express';
import { jobPatchSchema, newJobSchema } from '../../contract/studio.ts';
import type { Studio } from '../studio.ts';
import { idOf } from './requests.ts';

/** Jobs. */
export function jobRoutes(studio: Studio): Router {
  const { store, events } = studio;
  const routes = Router();
  routes.get('/jobs', async (_, res) => void res.json(await store.listJobs()));
  routes.post('/jobs', async (req, res) => {
    const id = await store.createJob(newJobSchema.parse(req.body));
    events.send({ type: 'jobs' });
    res.status(201).json({ id });
  });
  routes.patch('/jobs/:id', async (req, res) => {
    await store.changeJob(idOf(req), jobPatchSchema.parse(req.body));
    events.send({ type: 'jobs' });
    res.json({});
  });
  routes.delete('/jobs/:id', async (req, res) => {
    await studio.removeJob(idOf(req));
    events.send({ type: 'jobs' });
    res.json({});
  });
  return routes;
}
