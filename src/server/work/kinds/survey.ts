import { mergeFinds as merge, runFinders, type Surveyed, type SurveyOptions } from '../../../core/find/survey.ts';
import type { Raster } from '../../../core/raster/raster.ts';
import type { Work } from '../work.ts';

interface Input {
  raster: Raster;
  options: Omit<SurveyOptions, 'onProgress'>;
}

/** Looks a picture over with some of the finders. */
export const survey: Work<Input, { finds: Surveyed[] }> = {
  run: ({ raster, options }, progress) => ({ finds: runFinders(raster, { ...options, onProgress: progress }) }),
};

/** The finds of several threads as one list. */
export const mergeFinds: Work<{ raster: Raster; finds: Surveyed[] }, { finds: Surveyed[] }> = {
  run: ({ raster, finds }) => ({ finds: merge(raster, finds) }),
};
