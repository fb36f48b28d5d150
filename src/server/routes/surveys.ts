import { Router } from 'express';
import { acceptSchema, decisionSchema, meshRequestSchema, surveyRequestSchema } from '../../contract/survey.ts';
import { acceptFinds, readSurvey, startMesh, startSurvey } from '../services/surveys.ts';
import { newId } from '../../contract/ids.ts';
import type { Studio } from '../studio.ts';
import { known } from './pictures.ts';
import { idOf, requestName } from './requests.ts';

/** Surveys of pictures, and meshes completed from traced strands. */
export function surveyRoutes(studio: Studio): Router {
  const { store } = studio;
  const routes = Router();
  routes.post('/pictures/:id/survey', async (req, res) => {
    const request = surveyRequestSchema.parse(req.body ?? {});
    await known(studio, idOf(req));
    const taskId = newId();
    startSurvey(studio, idOf(req), request, taskId);
    res.status(202).json({ taskId });
  });
  routes.get('/pictures/:id/survey', async (req, res) => {
    await known(studio, idOf(req));
    res.json(await readSurvey(studio, idOf(req)));
  });
  routes.post('/pictures/:id/survey/decisions', async (req, res) => {
    const { ids, rejected } = decisionSchema.parse(req.body);
    await store.decide(idOf(req), ids, rejected);
    res.json({});
  });
  routes.post('/pictures/:id/survey/accept', async (req, res) => {
    const { ids } = acceptSchema.parse(req.body);
    res.json({ taken: await acceptFinds(studio, idOf(req), ids, requestName(req, 'accept')) });
  });
  routes.post('/pictures/:id/mesh', async (req, res) => {
    const { faultIds } = meshRequestSchema.parse(req.body);
    const taskId = newId();
    await startMesh(studio, idOf(req), faultIds, taskId);
    res.status(202).json({ taskId });
  });
  return routes;
}
