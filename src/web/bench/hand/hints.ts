import type { PictureState } from '../../../contract/api.ts';
import type { Hand } from './useHand.ts';

const BEGINNING: Record<NonNullable<Hand['mode']>, string> = {
  copy: 'Hold D and click where pixels are to be taken from, then paint. Shift draws a straight run from the last stroke.',
  blend: 'Paint: a donor is found nearby, or hold D and click to choose one. Tone comes from the surroundings.',
  patch: 'Outline an area, then drag it.',
  transplant: 'Outline the piece to lift, then drag it to its place.',
  shade: 'Paint: each pass adds a little.',
  reveal: 'Paint on what the chosen repair, or else the chosen layer, is to hide or show.',
};

/** What to do next with the verb by hand that is taken up; null where none is. */
export function hintOf({ mode, settings, floating, repair }: Hand, state: PictureState): string | null {
  if (!mode) return null;
  if (mode === 'reveal') {
    if (settings.revealOp === 'original')
      return 'Outline an area: every layer is hidden there, and the original is seen again.';
    if (!repair && state.document.layers.length === 0) return 'There is no repair yet that could be hidden or shown.';
    return `Paint on what ${repair ? 'the chosen repair' : 'the chosen layer'} is to ${settings.revealOp}.`;
  }
  if (!floating) return BEGINNING[mode];
  if (floating.kind === 'patch')
    return settings.direction === 'to the good'
      ? 'Drag the outline to the good area, look, put it down (Enter).'
      : 'Drag the good area onto the bad one, put it down (Enter).';
  const agrees = floating.agreement;
  return `Drag the piece to its place; the knob turns and sizes it.${
    agrees === undefined ? '' : ` Solved pose: agrees ${Math.round(100 * agrees)} %.`
  }`;
}
