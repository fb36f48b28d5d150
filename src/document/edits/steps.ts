import { Refused } from '../../contract/refused.ts';
import { STEPS, type StepSpec } from '../../core/chain/registry.ts';
import { turn } from '../../core/chain/turn.ts';
import { boxOf, intersect, isEmpty, type Box } from '../../core/raster/raster.ts';
import { added, changed, find, removed, type Plan, type Size } from './parts.ts';

/** @throws Refused where a step would leave nothing of the picture */
export function checkStep(spec: StepSpec, source: Size, area: Box): void {
  if (spec.step === 'canvas' && isEmpty(intersect(spec.box, boxOf(source))))
    throw new Refused('Nothing of the picture would be left on this canvas. Let it overlap the picture.');
  if (spec.step === 'turn' && spec.crop && isEmpty(intersect(turn({ ...spec, crop: null }).extent(area), spec.crop)))
    throw new Refused('Nothing of the picture would be left in this cut. Let it overlap the picture.');
}

/** Sets a step; each kind is there once at most. */
export const setStep: Plan<'setStep'> = (document, { spec }, { source, area, name }) => {
  checkStep(spec, source, area);
  const old = document.steps.find((s) => s.spec.step === spec.step);
  const label = `Set the ${STEPS[spec.step].name}`;
  if (old) return { label, changes: [changed('step', old, { ...old, spec })] };
  const order = document.steps.reduce((n, s) => Math.max(n, s.order), 0) + 1;
  return { label, changes: [added('step', { id: name(), order, spec })] };
};

/** Takes a step out again. */
export const removeStep: Plan<'removeStep'> = (document, { id }) => {
  const step = find(document.steps, id, 'step');
  return { label: `Take the ${STEPS[step.spec.step].name} back`, changes: [removed('step', step)] };
};
