import { useCallback, useEffect } from 'react';
import type { Point } from '../../../core/mask/shapes.ts';
import { isEmpty } from '../../../core/raster/raster.ts';
import { useDonor } from './useDonor.ts';
import { useFloating } from './useFloating.ts';
import { useHandBase, type HandOptions } from './useHandBase.ts';
import { useReveal } from './useReveal.ts';
import { useStrokes } from './useStrokes.ts';

/** Everything behind the verbs that are done by hand: settings, donor, what floats, the stroke being painted. */
export function useHand(options: HandOptions) {
  const base = useHandBase(options);
  const { preview, viewer, stamp } = base;
  const donors = useDonor(base);
  const reveals = useReveal(base);
  const strokes = useStrokes(base, donors, reveals.reveal);
  const floats = useFloating(base);

  // The preview goes once the server has laid the repair on and its tiles are drawn.
  const { rendered, unfinished, version } = strokes;
  const { floating } = floats;
  useEffect(() => {
    if (!viewer || !rendered || floating || unfinished() || isEmpty(preview.sheet.box)) return;
    return viewer.whenDrawn(stamp, () => !unfinished() && preview.clear());
  }, [viewer, rendered, stamp, floating, preview, version, unfinished]);

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
