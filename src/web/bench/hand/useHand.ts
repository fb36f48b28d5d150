import { useCallback, useEffect } from 'react';
import type { Point } from '../../../core/mask/shapes.ts';
import { isEmpty } from '../../../core/raster/raster.ts';
import { useDonor } from './useDonor.ts';
import { useFloating } from './useFloating.ts';
import { useHandBase, type HandOptions } from './useHandBase.ts';
import { useReveal } from './useReveal.ts';
import { useStrokes } from './useStrokes.ts';

/** ms that a preview stays after the server has laid the repair on: its tiles are on their way. */
const STAYS = 500;

/** Everything behind the verbs that are done by hand: settings, donor, what floats, the stroke being painted. */
export function useHand(options: HandOptions) {
  const base = useHandBase(options);
  const { mode, state, preview, setMessage } = base;
  const donors = useDonor(base);
  const reveals = useReveal(base);
  const strokes = useStrokes(base, donors, reveals.reveal);
  const floats = useFloating(base);

  // What was begun with another verb ends with it.
  const { setArmed } = donors;
  useEffect(() => {
    setMessage(null);
    setArmed(false);
    preview.clear();
  }, [mode, preview, setMessage, setArmed]);

  // The preview goes once the server has laid the repair on.
  const { rendered, unfinished, version } = strokes;
  const { floating } = floats;
  useEffect(() => {
    if (!rendered || floating || unfinished() || isEmpty(preview.sheet.box)) return;
    const timer = setTimeout(() => !unfinished() && preview.clear(), STAYS);
    return () => clearTimeout(timer);
  }, [rendered, state?.pixels.version, floating, preview, version, unfinished]);

  const { setDonor: take } = donors;
  const { endSession } = strokes;
  const setDonor = useCallback(
    (p: Point) => {
      take(p);
      endSession();
    },
    [take, endSession],
  );
  return { ...base, ...donors, ...reveals, ...strokes, ...floats, setDonor };
}

export type Hand = ReturnType<typeof useHand>;
