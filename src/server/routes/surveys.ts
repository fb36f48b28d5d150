import { Router } from 'express';
import { SURVEYS } from '../../contract/addresses.ts';
import { newId } from '../../contract/ids.ts';
import { acceptFinds, readSurvey, startSurvey } from '../services/surveys.ts';
import type { Studio } from '../studio.ts';
import { known, requestName } from './requests.ts';
import { serve } from './serve.ts';

/** Surveys of pictures. */
export function surveyRoutes(studio: Studio): Router {
  const routes = Router();
  serve(routes, SURVEYS.start, async ({ params: { id }, body }) => {
    await known(studio, id);
    const taskId = newId();
    startSurvey(studio, id, body, taskId);
    return { taskId };
  });
  serve(routes, SURVEYS.read, async ({ params: { id } }) => {
    await known(studio, id);
    return readSurvey(studio, id);
  });
  serve(routes, SURVEYS.decide, async ({ params: { id }, body: { ids, rejected } }) => {
    await studio.store.decide(id, ids, rejected);
    return {};
  });
  serve(routes, SURVEYS.accept, async ({ params: { id }, body: { ids }, req }) => ({
    taken: await acceptFinds(studio, id, ids, requestName(req, 'accept')),
  }));
  return routes;
}
