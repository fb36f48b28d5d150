import { useEffect, useRef, useState } from 'react';
import { PICTURES } from '../../contract/addresses.ts';
import type { Fault } from '../../contract/document.ts';
import { call, useAnswer } from '../lib/http.ts';

/** Seconds without a hand on mouse or keys after which work counts as interrupted. */
const IDLE = 60;
/** Minutes after which a rest is proposed when nothing else is set. */
const REST = 45;

/** Minutes of work after which eyes should rest; 0 = never. */
export const restSetting = (): number => Number(localStorage.getItem('restMinutes') ?? REST);

/**
 * Measures the time at work by itself: seconds count for the chosen fault while somebody is at it, and are logged once it is
 * accepted or left. Also says when eyes have looked long enough.
 */
export function useWorkClock(pictureId: string, fault: Fault | undefined) {
  const { data, mutate } = useAnswer(PICTURES.work, { id: pictureId }, { revalidateOnFocus: false });
  const seconds = useRef(new Map<string, number>());
  /** seconds that are sent and not answered yet */
  const sent = useRef(0);
  const touched = useRef(0);
  const looked = useRef(0);
  const [tired, setTired] = useState(false);
  const [now, setNow] = useState(0);
  const chosen = useRef(fault);
  chosen.current = fault;

  useEffect(() => {
    touched.current = Date.now();
    const touch = () => (touched.current = Date.now());
    const events = ['pointermove', 'pointerdown', 'keydown', 'wheel'] as const;
    for (const e of events) window.addEventListener(e, touch, { passive: true });
    const clock = setInterval(() => {
      const away = (Date.now() - touched.current) / 1000;
      if (document.hidden || away > IDLE) {
        // A real break rests the eyes as well.
        if (away > 300) looked.current = 0;
        return;
      }
      looked.current++;
      const rest = restSetting();
      if (rest > 0 && looked.current >= rest * 60) setTired(true);
      const id = chosen.current?.id;
      if (id) seconds.current.set(id, (seconds.current.get(id) ?? 0) + 1);
      if (looked.current % 15 === 0) setNow(looked.current);
    }, 1000);
    return () => {
      clearInterval(clock);
      for (const e of events) window.removeEventListener(e, touch);
    };
  }, []);

  const running = ([...seconds.current.values()].reduce((a, b) => a + b, 0) + sent.current) / 60;
  return {
    log: data?.log ?? [],
    spentMinutes: (data?.spentMinutes ?? 0) + running,
    tired,
    now,
    rested: () => {
      looked.current = 0;
      setTired(false);
    },
    /** the fault is done with: its time is logged */
    done: (f: Fault) => {
      const spent = seconds.current.get(f.id) ?? 0;
      if (spent < 1) return;
      seconds.current.delete(f.id);
      sent.current += spent;
      void call(PICTURES.logWork, { id: pictureId }, { body: { kind: f.kind, seconds: spent } })
        .then((next) => mutate(next, { revalidate: false }))
        // It counts on, and is sent with what follows.
        .catch(() => seconds.current.set(f.id, (seconds.current.get(f.id) ?? 0) + spent))
        .finally(() => (sent.current -= spent));
    },
  };
}

export type WorkClock = ReturnType<typeof useWorkClock>;
