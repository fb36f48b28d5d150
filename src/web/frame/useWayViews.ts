import { useEffect, useRef, useState } from 'react';
import type { PictureState } from '../../contract/api.ts';
import { VIEWS } from '../../contract/addresses.ts';
import type { WayView } from '../../contract/views.ts';
import type { GrowingWay } from '../../core/plan/frame-ways.ts';
import { call } from '../lib/http.ts';
import { stampOf } from '../lib/stamp.ts';
import type { Shape } from '../../core/mask/shapes.ts';
import type { StretchWay } from '../../core/repair/spec.ts';
import type { Way, Ways } from './ways.ts';

/** A way as it would look; why it cannot be gone; undefined while that is being worked out. */
export type Looked = WayView | { refused: string } | undefined;

/** What ways are tried with. */
interface TriedWith {
  subject: Shape[];
  by: StretchWay;
  /** the way the picture is framed already, which is not looked at again */
  standing: Way['way'] | null;
  /** something has to be known first */
  waits: boolean;
  areas: { donorArea: Shape[]; barred: Shape[]; edges: Shape[] };
}

/** ms that what is asked has to stay as it is before it is looked at. */
const SETTLED = 800;

/**
 * How each way would look, one after another, as soon as what is asked stays as it is.
 */
export function useWayViews(
  state: PictureState,
  ways: Ways,
  { subject, by, standing, waits, areas }: TriedWith,
): (way: Way) => Looked {
  const known = useRef(new Map<string, Looked>());
  const [, heard] = useState(0);
  const { id } = state.picture;
  const v = stampOf(state.pixels);
  const keyOf = ({ way, set: { canvas } }: Way) =>
    JSON.stringify([v, way, canvas, subject, way === 'extend' ? '' : by, way === 'stretch' ? '' : areas]);
  // What is being made comes first: nothing else is tried beside it.
  const isMade = !waits && state.statuses.every((s) => s.state !== 'working');
  const asked = [ways.extend, ways.stretch, ways.mixed].filter(
    (w): w is Way & { way: GrowingWay } => isMade && !!w?.set.canvas && w.way !== standing,
  );
  const all = asked.map(keyOf).join();
  useEffect(() => {
    const stop = new AbortController();
    const look = async () => {
      for (const way of asked) {
        const key = keyOf(way);
        if (known.current.has(key)) continue;
        const body = { way: way.way, canvas: way.set.canvas!, subject, by, ...areas };
        try {
          known.current.set(key, await call(VIEWS.way, { id }, { body, signal: stop.signal }));
        } catch (error) {
          if (stop.signal.aborted) return;
          known.current.set(key, { refused: (error as Error).message });
        }
        heard((n) => n + 1);
      }
    };
    const timer = setTimeout(() => void look(), SETTLED);
    return () => {
      clearTimeout(timer);
      stop.abort();
    };
    // All that decides what is looked at stands in the keys.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [id, all]);
  return (way) => known.current.get(keyOf(way));
}
