import type { Box } from '../raster/raster.ts';
import { canvas } from './canvas.ts';
import type { Step } from './step.ts';

/** Where in the chain a step stands; repairs are laid on between scan and frame. */
export const STAGES = ['scan', 'frame', 'finish'] as const;
export type Stage = (typeof STAGES)[number];

/** Cuts the picture to a box, or lets it reach beyond the source. */
export interface CanvasSpec {
  step: 'canvas';
  /** px of the base; may begin below 0 */
  box: Box;
}

/** What is set of a step, complete. */
export type StepSpec = CanvasSpec;

/** One kind of step. */
interface StepKind<Spec> {
  stage: Stage;
  /** what it is called in undo and redo */
  name: string;
  make(spec: Spec): Step;
}

/** Every kind of step, one line each. */
export const STEPS: { [K in StepSpec['step']]: StepKind<Extract<StepSpec, { step: K }>> } = {
  canvas: { stage: 'frame', name: 'canvas', make: ({ box }) => canvas(box) },
};

/** Steps of a stage, in their order. */
export const stepsOf = (specs: readonly StepSpec[], stage: Stage): Step[] =>
  specs.filter((s) => STEPS[s.step].stage === stage).map((s) => STEPS[s.step].make(s));
