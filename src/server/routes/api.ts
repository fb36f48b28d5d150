import express, { type Router } from 'express';
import { Refused } from '../../contract/refused.ts';
import type { Studio } from '../studio.ts';
import { answerErrors } from './errors.ts';
import { exportRoutes } from './exports.ts';
import { jobRoutes } from './jobs.ts';
import { pictureRoutes } from './pictures.ts';
import { surveyRoutes } from './surveys.ts';
import { taskRoutes } from './tasks.ts';
import { uploadRoutes } from './uploads.ts';
import { viewRoutes } from './views.ts';

/** Every route of the application, a file a resource; each checks its input and hands on. */
export function apiRoutes(studio: Studio): Router {
  const api = express.Router();
  api.use(uploadRoutes(studio));
  api.use(express.json({ limit: '20mb' }));
  for (const routes of [jobRoutes, pictureRoutes, surveyRoutes, viewRoutes, exportRoutes, taskRoutes])
    api.use(routes(studio));
  api.use((_, __, next) => next(new Refused('There is nothing at this address.', 404)));
  api.use(answerErrors);
  return api;
}
