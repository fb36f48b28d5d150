import type { Box } from '../raster/raster.ts';
import { canvas } from './canvas.ts';
import { turn, type Turn } from './turn.ts';
import type { Step } from './step.ts';

/**
 * Where in the chain a step stands; repairs are laid on between scan and frame. What stands at the end acts when the picture leaves:
 * people work on it as it was before, and it is sampled once.
 */
export const STAGES = ['scan', 'frame', 'finish', 'end'] as const;
export type Stage = (typeof STAGES)[number];

/** Cuts the picture to a box, or lets it reach beyond the source. */
export interface CanvasSpec {
  step: 'canvas';
  /** px of the base; may begin below 0 */
  box: Box;
}

/** Levels the picture, and cuts it. */
export interface TurnSpec extends Turn {
  step: 'turn';
}

/** What is set of a step, complete. */
export type StepSpec = CanvasSpec | TurnSpec;

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
  turn: { stage: 'end', name: 'level', make: turn },
};

/** The step that is set. */
const stepOf = <Spec extends StepSpec>(spec: Spec): Step => {
  const { make } = STEPS[spec.step] as unknown as StepKind<Spec>;
  return make(spec);
};

/** Steps of a stage, in their order. */
export const stepsOf = (specs: readonly StepSpec[], stage: Stage): Step[] =>
  specs.filter((s) => STEPS[s.step].stage === stage).map(stepOf);
