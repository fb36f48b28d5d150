/** The stages in the order people work, one line each; a stage's page stands in `app.tsx`. */
export const STAGES = {
  Jobs: '/',
  Intake: '/jobs/:jobId/intake',
  Survey: '/pictures/:pictureId/survey',
  Bench: '/pictures/:pictureId/bench',
  Frame: '/pictures/:pictureId/frame',
  Check: '/pictures/:pictureId/check',
  Deliver: '/pictures/:pictureId/deliver',
} as const;

export type Stage = keyof typeof STAGES;

/** Where somebody is. */
export interface Place {
  jobId?: string;
  pictureId?: string;
}

/** Address of a stage; undefined where it needs a job or a picture and there is none. */
export function stageAt(stage: Stage, place: Place): string | undefined {
  let there = true;
  const path = STAGES[stage].replace(/:(jobId|pictureId)/g, (_, name: keyof Place) => {
    there &&= place[name] !== undefined;
    return place[name] ?? '';
  });
  return there ? path : undefined;
}

/** Where work on a picture goes on: what nobody has looked over yet is surveyed first. */
export const workStage = (picture: { openFaults: number; treatedFaults: number }): Stage =>
  picture.openFaults + picture.treatedFaults === 0 ? 'Survey' : 'Bench';

/** Address of a stage where its place is known; the first one where it is not. */
export const toStage = (stage: Stage, place: Place): string => stageAt(stage, place) ?? STAGES.Jobs;
