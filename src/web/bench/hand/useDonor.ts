import { useCallback, useEffect, useState } from 'react';
import type { Point } from '../../../core/mask/shapes.ts';
import type { Donor } from '../../../core/repair/hand/donor.ts';
import { round } from './settings.ts';
import type { HandBase } from './useHandBase.ts';

/** Where copy and blend take pixels from. */
export function useDonor({ mode, settings, setMessage }: HandBase) {
  const [from, setFrom] = useState<Point | null>(null);
  /** where the first stroke with it began, to which it stays tied while it travels */
  const [at, setAt] = useState<Point | null>(null);
  const [armed, setArmed] = useState(false);
  useEffect(() => setArmed(false), [mode]);

  const donorFor = useCallback(
    (first: Point): Donor | null =>
      from && { ...settings.pose, from, at: settings.travels ? (at ?? first) : first, travels: settings.travels },
    [from, at, settings.pose, settings.travels],
  );
  const setDonor = useCallback(
    (p: Point) => {
      setFrom([round(p[0], 1), round(p[1], 1)]);
      setAt(null);
      setArmed(false);
      setMessage(null);
    },
    [setMessage],
  );
  return { from, at, setAt, armed, setArmed, donorFor, setDonor };
}

export type DonorHold = ReturnType<typeof useDonor>;
