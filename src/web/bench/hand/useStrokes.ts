import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { FaultKind, HandSpec } from '../../../contract/document.ts';
import { newId } from '../../../contract/ids.ts';
import type { RevealMark } from '../../../core/mask/reveal.ts';
import type { Point, Shape } from '../../../core/mask/shapes.ts';
import { boundsOfDab, DabWalker, type Stroke, type StrokePoint } from '../../../core/mask/strokes.ts';
import { grow, intersect, isEmpty, union } from '../../../core/raster/raster.ts';
import type { Donor } from '../../../core/repair/hand/donor.ts';
import { useLatest } from '../../lib/latest.ts';
import { sessionOn, type Session } from './session.ts';
import { kept, round } from './settings.ts';
import type { DonorHold } from './useDonor.ts';
import type { HandBase } from './useHandBase.ts';
import { donorAt, donorWarning } from './warnings.ts';

/** ms after which a brush that stands still shows its blend with the tone of the surroundings. */
const RESTS = 200;

/** Painting with a brush: copy, blend, shade and reveal. */
export function useStrokes(base: HandBase, donors: DonorHold, reveal: (marks: RevealMark[]) => void) {
  const { state, mode, settings, fault, repair, layerId, edits, size, barred, subject } = base;
  const { preview, setMessage, area, picture, begin, place } = base;
  const { from, at, setAt, donorFor } = donors;
  const [version, setVersion] = useState(0);
  const session = useRef<Session | null>(null);
  const live = useRef<StrokePoint[] | null>(null);
  const lastEnd = useRef<Point | null>(null);
  const walker = useRef<DabWalker | null>(null);
  const rest = useRef<ReturnType<typeof setTimeout>>(undefined);

  // What was begun with another verb ends with it.
  useEffect(() => {
    session.current = null;
    live.current = null;
    lastEnd.current = null;
  }, [mode]);

  const stroke = useCallback(
    (points: StrokePoint[]): Stroke => ({
      points,
      size,
      ...settings.brush,
    }),
    [size, settings.brush],
  );
  const avoid = useMemo(
    () =>
      (state?.document.faults ?? [])
        .filter((f) => f.state === 'open' && f.id !== fault?.id)
        .flatMap((f) => f.shapes)
        .slice(0, 2000),
    [state, fault],
  );

  const strokedSpec = useCallback(
    (strokes: Stroke[], donor: Donor | null): HandSpec | null => {
      if (mode === 'copy') return donor && { method: 'copy', strokes, donor };
      if (mode === 'blend') return { method: 'blend', strokes, donor, avoid };
      if (mode === 'shade') return { method: 'shade', strokes, ...settings.shade, seed: 1 };
      return null;
    },
    [mode, avoid, settings.shade],
  );
  /** The session that a stroke with this spec belongs to: the present one, one on the chosen repair, or a new one. */
  const sessionFor = useCallback(
    (spec: HandSpec): Session => {
      const made = sessionOn(session.current, spec, state, fault, repair);
      if (made !== session.current) {
        session.current = made;
        begin(made.repairId);
      }
      return made;
    },
    [state, fault, repair, begin],
  );

  /** Shows the stroke as far as it has come, where the points that were added set new dabs. */
  const show = useCallback(
    (fresh: StrokePoint[]) => {
      const points = live.current;
      if (!points || mode === 'reveal') return;
      walker.current ??= new DabWalker(stroke([]));
      const dabs = fresh.flatMap((p) => walker.current!.to(p));
      const donor = donorFor([points[0][0], points[0][1]]);
      // The membrane of a blend takes longer than a frame: while the brush moves the donor is seen as it is, with its tone once it rests.
      const resting = mode === 'blend' && donor !== null;
      if (resting) {
        clearTimeout(rest.current);
        rest.current = setTimeout(() => {
          const so = live.current && strokedSpec([...(session.current?.strokes ?? []), stroke(live.current)], donor);
          if (so) preview.render(so);
        }, RESTS);
      }
      if (!dabs.length) return preview.still();
      const spec = strokedSpec([stroke(points)], donor);
      if (!spec) return;
      const now = sessionFor(spec);
      const all = strokedSpec([...now.strokes, stroke(points)], donor)!;
      const part = intersect(grow(dabs.map(boundsOfDab).reduce(union), 1), area);
      if (isEmpty(part)) return;
      if (all.method === 'copy') return preview.render(all, { part });
      if (resting && donor)
        preview.render({ method: 'copy', strokes: now.strokes.concat(stroke(points)), donor }, { part });
      else preview.render(all);
    },
    [mode, donorFor, strokedSpec, stroke, sessionFor, preview, area],
  );

  const startStroke = useCallback(
    (x: number, y: number, pressure: number, straight: boolean): boolean => {
      setMessage(null);
      if (mode === 'copy' && !from) {
        setMessage(
          'Choose a donor first: hold D and click where pixels are to be taken from, or take one of the three proposed.',
        );
        return false;
      }
      if (mode === 'reveal' && !repair && !layerId) {
        setMessage('Choose a repair or a layer first: its parts are hidden and shown here.');
        return false;
      }
      const start: StrokePoint[] =
        straight && lastEnd.current
          ? [
              [lastEnd.current[0], lastEnd.current[1], pressure],
              [x, y, pressure],
            ]
          : [[x, y, pressure]];
      live.current = start.map(kept);
      walker.current = null;
      if ((mode === 'copy' || mode === 'blend') && from && settings.travels && !at) setAt([start[0][0], start[0][1]]);
      show(live.current);
      return true;
    },
    [mode, from, repair, layerId, settings.travels, at, setAt, setMessage, show],
  );

  const extendStroke = useCallback(
    (added: StrokePoint[]) => {
      if (!live.current || !added.length) return;
      const fresh = added.map(kept);
      live.current.push(...fresh);
      if ((mode === 'copy' || mode === 'blend') && state) {
        const donor = donorFor([live.current[0][0], live.current[0][1]]);
        const [x, y] = fresh[fresh.length - 1];
        if (donor)
          setMessage(
            donorWarning(donorAt(donor, [x, y]), size / 2, area, state.document, barred, subject, {
              repairId: session.current?.repairId ?? null,
              faultIds: fault ? [fault.id] : [],
            }),
          );
      }
      show(fresh);
    },
    [mode, state, donorFor, size, area, barred, subject, fault, setMessage, show],
  );

  const endStroke = useCallback(() => {
    const points = live.current;
    live.current = null;
    if (!points) return;
    const last = points[points.length - 1];
    lastEnd.current = [last[0], last[1]];
    const done = stroke(points);
    if (mode === 'reveal')
      return reveal([{ op: settings.revealOp === 'show' ? 'show' : 'hide', kind: 'stroke', stroke: done }]);
    const donor = donorFor([points[0][0], points[0][1]]);
    const spec = strokedSpec([done], donor);
    if (!spec) return;
    const now = sessionFor(spec);
    now.strokes.push(done);
    now.pending++;
    if (mode === 'blend') {
      clearTimeout(rest.current);
      preview.render(strokedSpec(now.strokes, donor)!);
    }
    const finished = () => {
      now.pending--;
      setVersion((v) => v + 1);
    };
    const id = now.repairId ?? now.asked;
    if (id) void edits.edit({ type: 'addStrokes', id, strokes: [done] }).finally(finished);
    else {
      now.asked = newId();
      const shape: Shape = {
        op: 'add',
        kind: 'brush',
        points: points.map(([x, y]): Point => [round(x, 10), round(y, 10)]),
        size,
      };
      const kind: FaultKind = points.length < 3 && size <= 60 ? 'speck' : 'object';
      void place(spec, { kind, shapes: [shape] }, { id: now.asked })
        .then((made) => {
          now.repairId = made?.id ?? null;
          if (made) now.faultId = made.faultIds[0] ?? null;
          else {
            preview.clear();
            if (session.current === now) session.current = null;
          }
        })
        .finally(finished);
    }
  }, [mode, stroke, donorFor, strokedSpec, sessionFor, reveal, settings.revealOp, edits, size, place, preview]);

  const dropStroke = useCallback(() => {
    live.current = null;
    preview.clear();
  }, [preview]);

  const rendered = state?.statuses.every((s) => s.state === 'shown' || s.state === 'failed');
  /** Shows what the brush would put down where it stands, before anything is painted. */
  const hover = useCallback(
    (p: Point | null) => {
      if (live.current || mode !== 'copy' || !from || (session.current?.pending ?? 0) > 0) return;
      if (!rendered) return;
      if (!p) return preview.clear();
      const donor = donorFor(p)!;
      const spec: HandSpec = {
        method: 'copy',
        strokes: [{ ...stroke([kept([p[0], p[1], 1])]), flow: 1, opacity: 1 }],
        donor,
      };
      preview.render(spec, { alone: true });
    },
    [mode, from, rendered, preview, donorFor, stroke],
  );
  // Hovering needs pixels before any stroke has begun.
  const beginning = useLatest(begin);
  useEffect(() => {
    if (mode && mode !== 'reveal') {
      session.current = null;
      beginning.current(null);
    }
    // Begun anew when another place or picture is worked on.
  }, [mode, layerId, picture?.id, from, beginning]);

  const alongLine = useCallback(() => {
    if (!fault?.line) return;
    const [first, ...rest] = fault.line.points.map(([x, y]): StrokePoint => [x, y, 1]);
    if (!startStroke(first[0], first[1], 1, false)) return;
    extendStroke(rest);
    endStroke();
  }, [fault, startStroke, extendStroke, endStroke]);

  /** Whether something is painted that the server has not laid on yet. */
  const unfinished = useCallback(() => live.current !== null || (session.current?.pending ?? 0) > 0, []);

  /** The next stroke begins a repair of its own, or goes on with the chosen one. */
  const endSession = useCallback(() => {
    session.current = null;
  }, []);

  return {
    endSession,
    live,
    startStroke,
    extendStroke,
    endStroke,
    dropStroke,
    hover,
    alongLine,
    rendered,
    unfinished,
    version,
  };
}
