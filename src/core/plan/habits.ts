import { kindFacts, type FaultKind } from '../faults/kinds.ts';
import type { Advice } from './advice.ts';

/** How an editor last changed what was proposed for a kind of fault. */
export interface KindDefaults {
  /** px more or less than proposed */
  margin: number;
  feather: number;
  /** 0…1, as it was set; null when it never was */
  strength: number | null;
}

const percent = (v: number) => `${Math.round(v * 100)} %`;
const signed = (v: number) => `${Math.abs(v)} px ${v > 0 ? 'more' : 'less'}`;

/**
 * What is proposed, changed as the editor changed it last for the kind in the same job, and said so. A strength is not taken over
 * for kinds of which a part that is left would be seen as a ghost.
 */
export function withHabit(advice: Advice, habit: KindDefaults | undefined, kind: FaultKind): Advice {
  if (!habit) return advice;
  const margin = Math.max(0, advice.margin + habit.margin);
  const feather = Math.max(0, advice.feather + habit.feather);
  const strength = (kindFacts(kind).byDegrees ? habit.strength : null) ?? advice.strength;
  const said = [
    margin !== advice.margin && `margin ${signed(margin - advice.margin)}`,
    feather !== advice.feather && `feather ${signed(feather - advice.feather)}`,
    strength !== advice.strength && `strength ${percent(strength)} (usual ${percent(advice.strength)})`,
  ].filter(Boolean);
  if (!said.length) return advice;
  return {
    ...advice,
    margin,
    feather,
    strength,
    reason: `${advice.reason} As last time in this job: ${said.join(', ')}.`,
  };
}
