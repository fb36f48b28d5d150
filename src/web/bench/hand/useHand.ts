import { newId } from '../../../contract/ids.ts';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { PictureState, PoseRequest } from '../../../contract/api.ts';
import type { Fault, FaultKind, HandSpec, Repair } from '../../../contract/document.ts';
import type { RevealMark } from '../../../core/mask/reveal.ts';
import { boundsWithin, type Point, type Shape } from '../../../core/mask/shapes.ts';
import { boundsOfDab, DabWalker, type Brush, type Stroke, type StrokePoint } from '../../../core/mask/strokes.ts';
import { grow, intersect, isEmpty, union, type Box } from '../../../core/raster/raster.ts';
import { PLAIN_POSE, type Donor, type Pose } from '../../../core/repair/hand/donor.ts';
import type { Twin } from '../../../core/plan/twin.ts';
import type { ShadeSpec } from '../../../core/repair/spec.ts';
import { VIEWS } from '../../../contract/addresses.ts';
import { call } from '../../lib/http.ts';
import type { Edits } from '../../lib/edits.ts';
import { float, floatTwin, specOf, takenUp, type Direction, type Floating } from './floating.ts';
import { usePreview } from './usePreview.ts';
import { fieldOf } from '../../../document/canvas.ts';
import { canvasOfState } from '../../lib/canvas.ts';
import { donorAt, donorWarning } from './warnings.ts';

export const HAND_MODES = ['copy', 'blend', 'patch', 'transplant', 'shade', 'reveal'] as const;
export type HandMode = (typeof HAND_MODES)[number];
export const isHand = (mode: string): mode is HandMode => (HAND_MODES as readonly string[]).includes(mode);

/** Settings of the brush and of every method by hand. */
export interface HandSettings {
  brush: Omit<Brush, 'size'>;
  pose: Pose;
  travels: boolean;
  shade: Pick<ShadeSpec, 'effect' | 'stops' | 'range'>;
  direction: Direction;
  blended: boolean;
  feather: number;
  /** a transplant is hidden at first, to be revealed with a brush */
  hidden: boolean;
  /** what the brush does in reveal; `original` outlines an area of which every layer is hidden */
  revealOp: 'hide' | 'show' | 'original';
}

const START: HandSettings = {
  brush: { hardness: 0.7, flow: 0.7, opacity: 1, spacing: 0.12, pressure: 'size' },
  pose: PLAIN_POSE,
  travels: true,
  shade: { effect: 'tone', stops: 0.25, range: 'all' },
  direction: 'to the good',
  blended: true,
  feather: 4,
  hidden: false,
  revealOp: 'hide',
};

/** Strokes painted one after another onto one repair. */
interface Session {
  key: string;
  repairId: string | null;
  /** what a repair that is not placed yet will be called */
  asked: string | null;
  strokes: Stroke[];
  faultId: string | null;
  /** strokes that the server has not answered yet */
  pending: number;
}

const round = (v: number, to: number) => Math.round(v * to) / to;

/** Points as they are kept: to a hundredth of a pixel. */
const kept = ([x, y, p]: StrokePoint): StrokePoint => [round(x, 100), round(y, 100), round(p, 1000)];

/** The specification of the chosen try when the repair is one by hand. */
export function handSpec(repair: Repair | undefined): HandSpec | null {
  const spec = repair?.tries.find((t) => t.id === repair.chosen)?.spec;
  return spec && spec.method !== 'fill' && spec.method !== 'given' ? spec : null;
}

/** The strokes of a repair as shapes, for finding what lies under the pointer. */
export function strokeShapes(spec: HandSpec | null): Shape[] {
  if (!spec || !('strokes' in spec)) return [];
  return spec.strokes.map((s) => ({
    op: 'add',
    kind: 'brush',
    points: s.points.map(([x, y]): Point => [x, y]),
    size: s.size,
  }));
}

/** Where no picture is open. */
const NOWHERE: Box = { x: 0, y: 0, width: 1, height: 1 };

/** Everything behind the verbs that are done by hand: settings, donor, what floats, the stroke being painted. */
export function useHand(options: {
  state: PictureState | undefined;
  mode: string;
  setMode(mode: HandMode | 'look'): void;
  fault: Fault | undefined;
  repair: Repair | undefined;
  layerId: string | null;
  edits: Edits;
  size: number;
  barred: Shape[];
  /** the subject as it was outlined for the survey */
  subject: Shape[];
  /** strength proposed for the chosen fault */
  strength: number | undefined;
  select(ids: string[], go?: boolean): void;
}) {
  const { state, fault, repair, layerId, edits, size, barred, subject, select } = options;
  const mode = isHand(options.mode) ? options.mode : null;
  const [settings, setSettings] = useState<HandSettings>(START);
  const [from, setFrom] = useState<Point | null>(null);
  const [at, setAt] = useState<Point | null>(null);
  const [armed, setArmed] = useState(false);
  const [floating, setFloating] = useState<Floating | null>(null);
  const [bending, setBending] = useState(false);
  const [message, setMessage] = useState<string | null>(null);
  const [solving, setSolving] = useState(false);
  const [version, setVersion] = useState(0);
  const session = useRef<Session | null>(null);
  const live = useRef<StrokePoint[] | null>(null);
  const lastEnd = useRef<Point | null>(null);
  const solve = useRef<(given?: Floating) => Promise<void>>(async () => undefined);
  const walker = useRef<DabWalker | null>(null);
  const rest = useRef<ReturnType<typeof setTimeout>>(undefined);
  // The layer that draws hears of a new preview directly: the rest of the bench need not be drawn anew for it.
  const onShown = useRef<(() => void) | null>(null);
  const preview = usePreview(
    useCallback(() => onShown.current?.(), []),
    setMessage,
  );
  const picture = state?.picture;
  const area = state ? canvasOfState(state) : NOWHERE;
  const steps = state?.document.steps;
  const stamp = state ? `${state.pixels.epoch}.${state.pixels.version}` : '';
  const set = useCallback((change: Partial<HandSettings>) => setSettings((s) => ({ ...s, ...change })), []);

  const begin = useCallback(
    (repairId: string | null) => {
      if (!picture || !steps) return;
      // A new repair lies on top of its layer; without one the layer is made, or it is the top of that kind's.
      preview.begin({
        id: picture.id,
        area: fieldOf({ steps }, picture.facts),
        layer: layerId,
        repair: repairId,
        stamp,
      });
    },
    [picture, preview, steps, layerId, stamp],
  );

  // What was begun with another verb ends with it.
  useEffect(() => {
    session.current = null;
    live.current = null;
    lastEnd.current = null;
    setMessage(null);
    setArmed(false);
    setFloating(null);
    setBending(false);
    preview.clear();
  }, [mode, preview]);

  // The preview goes once the server has laid the repair on.
  const rendered = state?.statuses.every((s) => s.state === 'shown' || s.state === 'failed');
  useEffect(() => {
    if (!rendered || live.current || floating || (session.current?.pending ?? 0) > 0 || isEmpty(preview.sheet.box))
      return;
    const timer = setTimeout(() => !live.current && preview.clear(), 500);
    return () => clearTimeout(timer);
  }, [rendered, state?.pixels.version, floating, preview, version]);

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

  const donorFor = useCallback(
    (first: Point): Donor | null =>
      from && { ...settings.pose, from, at: settings.travels ? (at ?? first) : first, travels: settings.travels },
    [from, at, settings.pose, settings.travels],
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
  const keyOf = useCallback((spec: HandSpec): string => {
    if (spec.method === 'shade') return JSON.stringify(['shade', spec.effect, spec.stops, spec.range]);
    if (!('strokes' in spec)) return '';
    // A donor that returns begins anew with each stroke: its place on the picture does not matter.
    const donor = spec.donor && { ...spec.donor, at: spec.donor.travels ? spec.donor.at : null };
    return JSON.stringify([spec.method, donor]);
  }, []);

  /** The session that a stroke with this spec belongs to: the present one, one on the chosen repair, or a new one. */
  const sessionFor = useCallback(
    (spec: HandSpec): Session => {
      const key = keyOf(spec);
      const now = session.current;
      const known = now?.repairId ? state?.document.repairs.find((r) => r.id === now.repairId) : undefined;
      if (now && now.key === key && (now.pending > 0 || (known && now.faultId === (fault?.id ?? null)))) {
        if (now.pending === 0 && known) {
          const own = handSpec(known);
          if (own && 'strokes' in own) now.strokes = [...own.strokes];
        }
        return now;
      }
      const own = handSpec(repair);
      const onto = own && 'strokes' in own && keyOf(own) === key ? repair! : null;
      const made: Session = {
        key,
        repairId: onto?.id ?? null,
        asked: null,
        strokes: onto && own && 'strokes' in own ? [...own.strokes] : [],
        faultId: fault?.id ?? null,
        pending: 0,
      };
      session.current = made;
      begin(made.repairId);
      return made;
    },
    [keyOf, state, fault, repair, begin],
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
        }, 200);
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
    [mode, from, repair, layerId, settings.travels, at, show],
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
    [mode, state, donorFor, size, area, barred, subject, fault, show],
  );

  const place = useCallback(
    async (
      spec: HandSpec,
      mark: { kind: FaultKind; shapes: Shape[] },
      more: { id?: string; reveal?: RevealMark[]; strength?: number } = {},
    ) => {
      // What is painted far from the chosen fault is a repair of its own place.
      const own =
        fault &&
        !isEmpty(
          intersect(grow(boundsWithin(fault.shapes, area), Math.max(60, 2 * size)), boundsWithin(mark.shapes, area)),
        )
          ? fault
          : undefined;
      const next = await edits.edit({
        type: 'placeRepair',
        spec,
        faultIds: own ? [own.id] : [],
        ...(own ? {} : { mark }),
        layerId,
        ...(own && options.strength !== undefined && { strength: options.strength }),
        ...more,
      });
      if (!next) return null;
      const made =
        next.document.repairs.find((r) => r.id === more.id) ??
        next.document.repairs.reduce((a, b) => (b.order > a.order ? b : a));
      if (!own && made.faultIds[0]) select([made.faultIds[0]], false);
      return made;
    },
    [edits, fault, layerId, select, options.strength, area, size],
  );

  const reveal = useCallback(
    (marks: RevealMark[]) => {
      if (!state) return;
      if (repair)
        void edits.edit({ type: 'changeRepair', id: repair.id, set: { reveal: [...(repair.reveal ?? []), ...marks] } });
      else {
        const layer = state.document.layers.find((l) => l.id === layerId);
        if (layer)
          void edits.edit({ type: 'changeLayer', id: layer.id, set: { reveal: [...(layer.reveal ?? []), ...marks] } });
      }
    },
    [state, repair, layerId, edits],
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

  const setDonor = useCallback((p: Point) => {
    setFrom([round(p[0], 1), round(p[1], 1)]);
    setAt(null);
    setArmed(false);
    setMessage(null);
    session.current = null;
  }, []);

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
  useEffect(() => {
    if (mode && mode !== 'reveal') {
      session.current = null;
      begin(null);
    }
    // Begun anew when what lies beneath has changed.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [mode, layerId, picture?.id, from]);

  // --- what floats ------------------------------------------------------------------------------------------------

  const showFloating = useCallback(
    (f: Floating) => {
      const spec = specOf(f, settings);
      preview.render(spec, { alone: true, strength: f.kind === 'transplant' && !f.editing ? 0.5 : 1 });
    },
    [settings, preview],
  );
  const changeFloating = useCallback(
    (next: Floating | null) => {
      setFloating(next);
      if (next) showFloating(next);
      else preview.clear();
    },
    [showFloating, preview],
  );
  useEffect(() => {
    if (floating) showFloating(floating);
    // Other settings show at once; where it lies is shown as it is moved.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [settings.blended, settings.feather, settings.direction]);

  const lift = useCallback(
    (shapes: Shape[]) => {
      if (mode !== 'patch' && mode !== 'transplant') return;
      const f = float(mode, shapes, area);
      if (!f) return setMessage('Nothing of this lies on the picture. Outline a place on it.');
      setMessage(null);
      begin(null);
      changeFloating(f);
    },
    [mode, area, begin, changeFloating],
  );
  /** Lifts the twin of the chosen fault, brings it there and solves its pose. */
  const liftTwin = useCallback(
    (twin: Twin) => {
      const f = fault && floatTwin(fault.shapes, twin, area);
      if (!f) return;
      begin(null);
      changeFloating(f);
      void solve.current(f);
    },
    [fault, area, begin, changeFloating],
  );
  /** Takes a placed patch or transplant up again. */
  const takeUp = useCallback(() => {
    const f = repair && takenUp(repair, area);
    const spec = handSpec(repair);
    if (!f || !spec || !('blended' in spec)) return;
    setSettings((s) => ({ ...s, blended: spec.blended, feather: spec.feather }));
    begin(repair!.id);
    changeFloating(f);
  }, [repair, area, begin, changeFloating]);

  const putDown = useCallback(() => {
    if (!floating) return;
    const spec = specOf(floating, settings);
    if (floating.kind === 'patch' && floating.at.every((v, i) => Math.abs(v - floating.middle[i]) < 1))
      return setMessage('Drag it first: it still lies where it was outlined.');
    const shown = floating;
    setFloating(null);
    setBending(false);
    preview.render(spec, { alone: true });
    if (shown.editing) {
      void edits.edit({ type: 'changeSpec', id: shown.editing, spec });
      return;
    }
    const cover: Shape[] =
      spec.method === 'patch'
        ? spec.cover
        : [
            {
              op: 'add',
              kind: 'box',
              x: Math.round(shown.at[0] - (shown.box.width * shown.pose.scale) / 2),
              y: Math.round(shown.at[1] - (shown.box.height * shown.pose.scale) / 2),
              width: Math.round(shown.box.width * shown.pose.scale),
              height: Math.round(shown.box.height * shown.pose.scale),
            },
          ];
    const hidden = spec.method === 'transplant' && settings.hidden;
    const everywhere: Shape = { op: 'add', kind: 'box', ...area };
    void place(
      spec,
      { kind: 'object', shapes: cover },
      hidden ? { reveal: [{ op: 'hide', kind: 'area', shapes: [everywhere], feather: 0 }] } : {},
    ).then((made) => {
      if (!made) return preview.clear();
      if (hidden) {
        set({ revealOp: 'show' });
        options.setMode('reveal');
      }
    });
  }, [floating, settings, preview, edits, place, area, set, options]);

  const solvePose = useCallback(
    async (given?: Floating) => {
      const from = given ?? floating;
      if (!from || !picture) return;
      setSolving(true);
      setMessage(null);
      try {
        const request: PoseRequest = {
          piece: from.shapes,
          rough: from.at,
          ignore: (state?.document.faults ?? [])
            .filter((f) => f.state === 'open')
            .flatMap((f) => f.shapes)
            .slice(0, 2000),
        };
        const answer = await call(VIEWS.pose, { id: picture.id }, { body: request });
        if (answer.agreement < 0.3) {
          setMessage(
            `The best pose agrees only ${Math.round(100 * Math.max(0, answer.agreement))} %: bring the piece nearer to its place, or set it by hand.`,
          );
          return;
        }
        const { turn, mirror, agreement } = answer;
        const scale = Math.min(4, Math.max(0.25, answer.scale));
        // The solved place is that of the middle of the piece's box.
        changeFloating({
          ...from,
          at: answer.at,
          pose: { turn: round(turn, 1000), scale: round(scale, 10000), mirror },
          agreement,
        });
      } catch (error) {
        setMessage((error as Error).message);
      } finally {
        setSolving(false);
      }
    },
    [floating, picture, state, changeFloating],
  );

  solve.current = solvePose;

  /** Other settings or another donor for the chosen repair. */
  const changeSpec = useCallback(
    (spec: HandSpec) => {
      if (repair) void edits.edit({ type: 'changeSpec', id: repair.id, spec });
    },
    [repair, edits],
  );
  const bringBack = useCallback(
    (shapes: Shape[]) => void edits.edit({ type: 'bringBack', shapes, feather: settings.feather }),
    [edits, settings.feather],
  );
  const alongLine = useCallback(() => {
    if (!fault?.line) return;
    const [first, ...rest] = fault.line.points.map(([x, y]): StrokePoint => [x, y, 1]);
    if (!startStroke(first[0], first[1], 1, false)) return;
    extendStroke(rest);
    endStroke();
  }, [fault, startStroke, extendStroke, endStroke]);

  return {
    mode,
    settings,
    set,
    size,
    from,
    at,
    setDonor,
    armed,
    setArmed,
    donorFor,
    live,
    startStroke,
    extendStroke,
    endStroke,
    dropStroke,
    hover,
    floating,
    changeFloating,
    lift,
    liftTwin,
    takeUp,
    putDown,
    bending,
    setBending,
    solvePose,
    solving,
    changeSpec,
    reveal,
    bringBack,
    alongLine,
    message,
    setMessage,
    preview,
    begin,
    onShown,
    repair,
    fault,
  };
}

export type Hand = ReturnType<typeof useHand>;
