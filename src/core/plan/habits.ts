import type { Advice } from './advice.ts';

/** How an editor last changed what was proposed for a kind of fault. */
export interface KindDefaults {
  /** px more or less than proposed */
  margin: number;
  feather: number;
  /** 0…1, as it was set; null when it never was */
  strength: number | null;
}

const signed = (v: number) => `${Math.abs(v)} px ${v > 0 ? 'more' : 'less'}`;

/** What is proposed, changed as the editor changed it last for the kind: the editor's settings win. */
export function withHabit(advice: Advice, habit: KindDefaults | undefined): Advice {
  if (!habit) return advice;
  const margin = Math.max(0, advice.margin + habit.margin);
  const feather = Math.max(0, advice.feather + habit.feather);
  const strength = habit.strength ?? advice.strength;
  const said = [
    margin !== advice.margin && `margin ${signed(margin - advice.margin)}`,
    feather !== advice.feather && `feather ${signed(feather - advice.feather)}`,
    strength !== advice.strength && `strength ${Math.round(strength * 100)} %`,
  ].filter(Boolean);
  if (!said.length) return advice;
  return {
    ...advice,
    margin,
    feather,
    strength,
    reason: `${advice.reason} As you last set this kind: ${said.join(', ')}.`,
  };
}
