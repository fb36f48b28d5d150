import { useEffect, useState } from 'react';
import { useLatest } from '../../lib/latest.ts';
import type { Flight } from '../flight.ts';

/** Picture px a second, and how a key changes that. */
const SPEED = { usual: 260, least: 60, most: 1500, by: 1.3 };
/** Whoever asks for less motion gets still views, one after another, this long. */
const STILL_MS = 2500;

/** How far a flight has come, and its controls. */
export function useFlight(flight: Flight) {
  const [flying, setFlying] = useState(true);
  const [speed, setSpeed] = useState(SPEED.usual);
  const [flown, setFlown] = useState(0);
  const over = flown >= flight.length;
  const now = useLatest({ flight, speed, on: flying && !over });
  useEffect(() => {
    const still = matchMedia('(prefers-reduced-motion: reduce)').matches;
    let last = performance.now();
    let frame = 0;
    const fly = (at: number) => {
      frame = requestAnimationFrame(fly);
      const { flight: of, speed: fast, on } = now.current;
      const gone = at - last;
      if (still && on && gone < STILL_MS) return;
      last = at;
      if (!on) return;
      const by = still ? (of.to - of.from) / 3 || of.length : (fast * Math.min(gone, 100)) / 1000;
      setFlown((f) => Math.min(of.length, f + by));
    };
    frame = requestAnimationFrame(fly);
    return () => cancelAnimationFrame(frame);
  }, [now]);
  return {
    flown,
    flying,
    over,
    secondsLeft: (flight.length - flown) / speed,
    pause: () => setFlying(false),
    /** flies on, pauses, or begins again at the end */
    toggle: () => (over ? setFlown(0) : setFlying((f) => !f)),
    faster: (times: 1 | -1) => setSpeed((s) => Math.min(SPEED.most, Math.max(SPEED.least, s * SPEED.by ** times))),
  };
}
