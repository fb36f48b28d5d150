import type { Box } from '../../core/raster/raster.ts';
import { Redo2, Undo2 } from 'lucide-react';
import { useCallback, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { useParams } from 'react-router';
import styled from 'styled-components';
import type { FaultKind, Repair } from '../../contract/document.ts';
import type { Point, Shape } from '../../core/mask/shapes.ts';
import { rasterise } from '../../core/mask/shapes.ts';
import { usualDistance } from '../../core/plan/visibility.ts';
import { useJobs, usePicture, useSurvey } from '../lib/api.ts';
import { useEdits } from '../lib/edits.ts';
import { SURROUNDS, theme, type Surround } from '../theme.ts';
import { Button, Select, Slider, Strip, Toggle } from '../ui/controls.tsx';
import { Notices } from '../ui/notices.tsx';
import { Column, Shell, StageBar } from '../ui/page.tsx';
import { ArmsLength } from '../viewer/ArmsLength.tsx';
import { CloseUp, draftShape, type Preview, type ShapeTool } from '../viewer/CloseUp.tsx';
import { COLOURS, type Hatched } from '../viewer/drawing.ts';
import type { Compare, ViewerHandle } from '../viewer/usePictureViewer.ts';
import { factsOf, orderedFaults, Worklist, type Order } from '../worklist/Worklist.tsx';
import { Layers } from './Layers.tsx';
import { ShortcutList } from './shortcuts.tsx';
import { Rest } from './Rest.tsx';
import { TreatmentCard } from './TreatmentCard.tsx';
import type { FillAreas } from './Tries.tsx';
import { HandBar } from './hand/HandBar.tsx';
import { useProposal } from './hand/HandCard.tsx';
import { HandLayer } from './hand/HandLayer.tsx';
import { HAND_MODES, handSpec, isHand, strokeShapes, useHand, type HandMode } from './hand/useHand.ts';
import type { Proposal } from '../../core/plan/proposal.ts';
import { useWorkClock } from '../worklist/useWorkClock.ts';

const Bench = styled.div`
  height: 100%;
  display: grid;
  grid-template-columns: 216px minmax(0, 1fr) 264px;
  grid-template-rows: minmax(0, 1fr);
  .work {
    display: grid;
    grid-template-rows: auto minmax(0, 1fr) auto;
    grid-template-columns: minmax(0, 1fr);
    min-width: 0;
    min-height: 0;
  }
  .side {
    min-width: 0;
    display: flex;
    flex-direction: column;
    min-height: 0;
    border-left: 1px solid ${theme.rule};
    background: ${theme.sheet};
  }
  .compare {
    padding: 6px 10px 2px;
    display: grid;
  }
  .compare > div > button {
    flex: 1;
    padding: 2px 4px;
    font-size: 13px;
    min-height: 26px;
  }
  .side > p {
    padding: 5px 12px;
    font-size: 12px;
    color: ${theme.quiet};
    display: flex;
    justify-content: space-between;
    gap: 8px;
    align-items: center;
  }
`;
const Verbs = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 5px 8px;
  align-items: center;
  padding: 6px 10px;
  border-bottom: 1px solid ${theme.rule};
  background: ${theme.paper};
  .size {
    width: 118px;
  }
  .gap {
    flex: 1;
  }
  button {
    min-height: 28px;
  }
`;
const Saved = styled.span<{ $state: string }>`
  color: ${({ $state }) => ($state === 'failed' ? theme.bad : theme.quiet)};
  min-width: 92px;
  text-align: right;
`;

/** What is painted for a fill to heed. */
type AreaMode = keyof FillAreas;
const NO_AREAS: FillAreas = { donor: [], barred: [], edges: [], grounds: [] };
/** The one shape that some of it is drawn with. */
const DRAWN_BY: Partial<Record<Mode, ShapeTool>> = { edges: 'strand', grounds: 'brush' };
const isArea = (mode: Mode): mode is AreaMode => mode in NO_AREAS;
type Mode = 'look' | 'mark' | 'trace' | AreaMode | HandMode;
type Into = 'new' | 'add' | 'take';

const SHAPES: Array<{ id: ShapeTool; name: string; key: string }> = [
  { id: 'brush', name: 'Brush', key: 'q' },
  { id: 'outline', name: 'Outline', key: 'w' },
  { id: 'corners', name: 'Corners', key: 'e' },
  { id: 'box', name: 'Box', key: 'r' },
  { id: 'strand', name: 'Strand', key: 't' },
];

const kindFor = (shape: Shape): FaultKind =>
  shape.kind === 'strand'
    ? 'strand'
    : shape.kind === 'brush' && shape.points.length < 3 && shape.size <= 60
      ? 'speck'
      : 'object';

const NOTHING: Shape[] = [];

export default function BenchPage() {
  const { pictureId = '' } = useParams();
  const { data: state, error } = usePicture(pictureId);
  const { data: jobs } = useJobs();
  const { data: survey } = useSurvey(pictureId);
  const edits = useEdits(pictureId);
  const job = jobs?.find((j) => j.id === state?.picture.jobId);
  const longSideMm = job?.longSideMm ?? 300;
  const viewing = { longSideMm, distanceMm: job?.viewingMm ?? usualDistance(longSideMm) };
  const [order, setOrder] = useState<Order>(() => (localStorage.getItem('worklistOrder') as Order | null) ?? 'work');

  const [mode, setMode] = useState<Mode>('look');
  const [shapeTool, setShapeTool] = useState<ShapeTool>('brush');
  const [into, setInto] = useState<Into>('new');
  const [size, setSize] = useState(24);
  const [selected, setSelected] = useState<string[]>([]);
  const [layerId, setLayerId] = useState<string | null>(null);
  const [chosenRepair, setChosenRepair] = useState<string | null>(null);
  const [onlyLayer, setOnly] = useState<string | null>(null);
  const [donorHeld, setDonorHeld] = useState(false);
  const [viewHandle, setHandle] = useState<ViewerHandle | null>(null);
  const donorClicked = useRef(false);
  const pointerAt = useRef<Point | null>(null);
  const [compare, setCompare] = useState<Compare>('repaired');
  const [held, setHeld] = useState(false);
  const [divider, setDivider] = useState(0.5);
  const [markers, setMarkers] = useState(true);
  const [surround, setSurround] = useState<Surround>(
    () => (localStorage.getItem('surround') as Surround | null) ?? 'mid',
  );
  const [preview, setPreview] = useState<Preview | null>(null);
  const [draft, setDraft] = useState<Point[]>([]);
  const [areas, setAreas] = useState<FillAreas>(NO_AREAS);
  const [view, setView] = useState<(Box & { scale: number }) | null>(null);
  const [help, setHelp] = useState(false);
  const [byKeys, setByKeys] = useState(false);
  const handle = useRef<ViewerHandle | null>(null);
  const fillNow = useRef<(() => void) | null>(null);

  const shownDocument = state?.document;
  const faults = useMemo(
    () => selected.flatMap((id) => shownDocument?.faults.find((f) => f.id === id) ?? []),
    [selected, shownDocument],
  );
  const repairs = useMemo(
    () => (faults.length ? (shownDocument?.repairs.filter((r) => r.faultIds.includes(faults[0].id)) ?? []) : []),
    [faults, shownDocument],
  );
  const repair: Repair | undefined = repairs.find((r) => r.id === chosenRepair) ?? repairs.at(-1);
  const clock = useWorkClock(pictureId, faults[0]);
  const tool: ShapeTool | null =
    mode === 'look' || isHand(mode)
      ? null
      : mode === 'trace'
        ? 'strand'
        : (DRAWN_BY[mode] ?? (mode !== 'mark' && shapeTool === 'strand' ? 'brush' : shapeTool));
  const traced = faults.length > 1 && faults.every((f) => f.line);

  const proposal = useProposal(
    state,
    faults.length === 1 && (isHand(mode) || (!repair && faults[0].state === 'open')) ? faults[0] : undefined,
    areas.barred,
  );
  const only = onlyLayer && state?.document.layers.some((l) => l.id === onlyLayer) ? onlyLayer : null;
  const chosenLayer = layerId && state?.document.layers.some((l) => l.id === layerId) ? layerId : null;

  const goTo = useCallback(
    (id: string) => {
      const fault = state?.document.faults.find((f) => f.id === id);
      if (!fault || !handle.current) return;
      const { bounds } = factsOf(fault, state!);
      const room = handle.current.viewer.viewport.getContainerSize();
      if (bounds.width > 0.6 * state!.picture.facts.width || bounds.height > 0.6 * state!.picture.facts.height)
        return handle.current.fit();
      const fit = Math.min(room.x / (bounds.width * 1.8 + 60), room.y / (bounds.height * 1.8 + 60));
      handle.current.centreOn(
        bounds.x + bounds.width / 2,
        bounds.y + bounds.height / 2,
        Math.min(3, Math.max(0.1, fit)),
      );
    },
    [state],
  );
  /** Zooms on what is chosen when it is in sight, else on what is in the middle. */
  const zoomTo = (scale: number) => {
    const view = handle.current;
    const fault = faults.length === 1 ? faults[0] : undefined;
    if (!view || !fault || scale < view.scale()) return view?.zoomTo(scale);
    const { heart } = factsOf(fault, state!);
    const [x, y] = view.toScreen(...heart);
    const room = view.viewer.viewport.getContainerSize();
    if (x < 0 || y < 0 || x > room.x || y > room.y) view.zoomTo(scale);
    else view.centreOn(...heart, scale);
  };
  const select = useCallback(
    (ids: string[], go = true) => {
      setSelected(ids);
      setChosenRepair(null);
      setPreview(null);
      setAreas(NO_AREAS);
      setInto('new');
      if (go && ids.length === 1) goTo(ids[0]);
    },
    [goTo],
  );
  const hand = useHand({
    state,
    mode,
    setMode,
    fault: faults[0],
    repair,
    layerId: chosenLayer,
    edits,
    size,
    barred: areas.barred,
    subject: survey?.request.subject ?? NOTHING,
    strength: proposal?.strength,
    select,
  });
  const handNow = useRef(hand);
  handNow.current = hand;
  /** Takes up the verb and the brush that were proposed; the best donor with them where one is to be chosen. */
  const takeUpProposal = useCallback(
    (p: Proposal) => {
      if (p.method === 'fill') return fillNow.current?.();
      setSize(p.brush.size);
      hand.set({
        brush: { ...hand.settings.brush, hardness: p.brush.hardness, flow: p.brush.flow },
        feather: p.feather,
      });
      setMode(p.method);
      // Lifted once the verb is taken up, since changing the verb drops what floats.
      if (p.method === 'transplant' && p.twin) setTimeout(() => handNow.current.liftTwin(p.twin!), 60);
      if (p.method === 'copy' && p.donors[0] && !hand.from) hand.setDonor(p.donors[0].at);
    },
    [hand],
  );
  const next = useCallback(
    (by: 1 | -1 = 1) => {
      const all = state ? orderedFaults(state, order) : [];
      const at = all.findIndex((f) => f.id === selected[0]);
      // With nothing chosen, backwards begins at the last.
      const from = at < 0 && by < 0 ? 0 : at;
      const others = all.map((_, n) => all[(from + by * (n + 1) + all.length * 2) % all.length]);
      // Once nothing is open, what was treated is gone through.
      const find = (wanted: 'open' | 'treated') => others.find((f) => f.id !== selected[0] && f.state === wanted);
      const to = find('open') ?? find('treated');
      if (to) select([to.id]);
    },
    [state, selected, select, order],
  );

  const onShape = useCallback(
    (shape: Shape) => {
      if (isArea(mode)) {
        setAreas((a) => ({ ...a, [mode]: [...a[mode], shape] }));
        return;
      }
      if (mode === 'trace') {
        if (shape.kind === 'strand' && shape.points.length > 1)
          void edits.trace(shape.points).then((s) => {
            const made = s?.document.faults.reduce((a, b) => (b.number > a.number ? b : a));
            // Strands traced one after another stay chosen together, so that a mesh can be completed from them.
            if (made) select([...selected.filter((id) => faults.find((f) => f.id === id)?.line), made.id], false);
          });
        return;
      }
      const target = into === 'new' ? undefined : faults[0];
      if (target) {
        const op: Shape['op'] = into === 'take' ? 'take' : 'add';
        void edits.edit({ type: 'changeFault', id: target.id, set: { shapes: [...target.shapes, { ...shape, op }] } });
      } else {
        void edits.edit({ type: 'addFault', shapes: [shape], kind: kindFor(shape) }).then((s) => {
          const made = s?.document.faults.reduce((a, b) => (b.number > a.number ? b : a));
          if (made) select([made.id], false);
        });
      }
    },
    [mode, into, faults, edits, select, selected],
  );

  const onPick = useCallback(
    ([x, y]: Point) => {
      if (!state || mode !== 'look') return;
      const box = { x: Math.floor(x) - 3, y: Math.floor(y) - 3, width: 7, height: 7 };
      const hit = [...state.document.faults].reverse().find((f) => rasterise(f.shapes, box).data.some((v) => v > 0));
      if (hit) return select([hit.id], false);
      // A repair by hand may reach beyond what was marked.
      const painted = state.document.repairs.findLast((r) =>
        rasterise(strokeShapes(handSpec(r)), box).data.some((v) => v > 0),
      );
      select(painted ? painted.faultIds.slice(0, 1) : [], false);
      if (painted) setChosenRepair(painted.id);
    },
    [state, select, mode],
  );

  const onHandle = useCallback((h: ViewerHandle | null) => {
    handle.current = h;
    setHandle(h);
    (window as unknown as { tersumView?: ViewerHandle | null }).tersumView = h;
  }, []);

  const hatched = useMemo(() => {
    const list: Hatched[] = [];
    for (const f of state?.document.faults ?? []) {
      const on = selected.includes(f.id);
      if (!on && f.state !== 'open') continue;
      if (on && (f.state !== 'open' || isHand(mode)) && (mode === 'look' || isHand(mode))) continue;
      list.push({ shapes: f.shapes, margin: on ? f.margin : 0, colour: on ? COLOURS.selected : COLOURS.open });
    }
    if (areas.donor.length) list.push({ shapes: areas.donor, margin: 0, colour: COLOURS.donor });
    if (areas.barred.length) list.push({ shapes: areas.barred, margin: 0, colour: COLOURS.barred });
    if (areas.edges.length) list.push({ shapes: areas.edges, margin: 0, colour: COLOURS.edges });
    if (areas.grounds.length) list.push({ shapes: areas.grounds, margin: 0, colour: COLOURS.grounds });
    return list;
  }, [state, selected, areas, mode]);

  const step = useCallback((d: 'undo' | 'redo') => void edits.step(d), [edits]);
  const shown: Compare = held ? 'before' : compare;

  // Renewed as soon as anything is drawn anew, so that a key never acts on what stood before the key just pressed.
  useLayoutEffect(() => {
    const typing = (e: KeyboardEvent) => {
      const t = e.target as HTMLElement;
      return (
        t.closest('input:not([type=range], [type=checkbox], [type=radio]), textarea, select, [role=dialog]') !== null
      );
    };
    const onKey = (e: KeyboardEvent) => {
      if (typing(e)) return;
      const key = e.key.toLowerCase();
      if ((e.ctrlKey || e.metaKey) && key === 'z') {
        e.preventDefault();
        return step(e.shiftKey ? 'redo' : 'undo');
      }
      if (e.ctrlKey || e.metaKey || e.altKey) return;
      const inControl =
        (e.target as HTMLElement).closest('button, [role=slider], input, a, [role=radio], label') !== null;
      const v = handle.current;
      const move = (dx: number, dy: number) => {
        if (!v) return;
        const far = (e.shiftKey ? 160 : 24) / v.scale();
        // From where the view is going, not where it is just now: keys pressed quickly add up.
        const { x, y } = v.viewer.viewport.getCenter(false);
        const wide = state?.picture.facts.width ?? 1;
        v.centreOn(x * wide + dx * far, y * wide + dy * far);
        v.viewer.viewport.applyConstraints(true);
        setByKeys(true);
      };
      const centre = (): Point => {
        const c = v!.viewer.viewport.getContainerSize();
        return v!.toImage(c.x / 2, c.y / 2);
      };
      const adjust = (by: number) =>
        repair &&
        void edits.edit({
          type: 'changeRepair',
          id: repair.id,
          set: { strength: Math.min(1, Math.max(0, Math.round((repair.strength + by) * 10) / 10)) },
        });
      const actions: Record<string, (() => void) | undefined> = {
        n: () => next(1),
        p: () => next(-1),
        x: () => {
          if (faults[0]) {
            clock.done(faults[0]);
            void edits.edit({ type: 'changeFault', id: faults[0].id, set: { state: 'left' } });
          }
          next(1);
        },
        '1': () => setMode('look'),
        '2': () => setMode('mark'),
        '3': () => fillNow.current?.(),
        '4': () => setMode('copy'),
        '5': () => setMode('blend'),
        '6': () => setMode('trace'),
        '7': () => setMode('patch'),
        '8': () => setMode('transplant'),
        '9': () => setMode('shade'),
        '0': () => setMode('reveal'),
        g: () => traced && void edits.mesh(faults.map((f) => f.id)),
        u: () => setMode('donor'),
        i: () => setMode('barred'),
        d: () => {
          if (e.repeat || (mode !== 'copy' && mode !== 'blend')) return;
          donorClicked.current = false;
          setDonorHeld(true);
        },
        a: () => setInto('new'),
        s: () => faults.length === 1 && setInto('add'),
        z: () => faults.length === 1 && setInto('take'),
        ',': () => setSize((s) => Math.max(1, Math.round(s / 1.2) - (s < 6 ? 1 : 0))),
        '.': () => setSize((s) => Math.min(600, Math.max(s + 1, Math.round(s * 1.2)))),
        '+': () => v?.zoomTo(Math.min(16, v.scale() * 1.5)),
        '=': () => v?.zoomTo(Math.min(16, v.scale() * 1.5)),
        '-': () => v?.zoomTo(v.scale() / 1.5),
        home: () => v?.fit(),
        end: () => zoomTo(1),
        f: () => faults[0] && goTo(faults[0].id),
        b: () => setHeld(true),
        v: () => setCompare((c) => (c === 'divider' ? 'repaired' : 'divider')),
        c: () => setCompare((c) => (c === 'difference' ? 'repaired' : 'difference')),
        m: () => setMarkers((on) => !on),
        '[': () => adjust(-0.1),
        ']': () => adjust(0.1),
        h: () => repair && void edits.edit({ type: 'changeRepair', id: repair.id, set: { visible: !repair.visible } }),
        y: () => {
          if (!repair || !state) return;
          const ready = repair.tries.filter((t) => state.statuses.find((s) => s.id === repair.id)?.tries[t.id]?.ready);
          const at = ready.findIndex((t) => t.id === repair.chosen);
          const to = ready[(at + 1) % ready.length];
          if (to && to.id !== repair.chosen)
            void edits.edit({ type: 'changeRepair', id: repair.id, set: { chosen: to.id } });
        },
        delete: () => {
          if (repair) void edits.edit({ type: 'removeRepair', id: repair.id });
          else if (faults[0]) void edits.edit({ type: 'removeFault', id: faults[0].id });
        },
        escape: () => {
          hand.changeFloating(null);
          hand.setArmed(false);
          hand.dropStroke();
          setDraft([]);
          setPreview(null);
        },
        '?': () => setHelp(true),
        ...Object.fromEntries(
          SHAPES.map((s) => [
            s.key,
            () => {
              setShapeTool(s.id);
              setMode((m) => (m === 'look' ? 'mark' : m));
            },
          ]),
        ),
      };
      if (!inControl) {
        actions.arrowleft = () => move(-1, 0);
        actions.arrowright = () => move(1, 0);
        actions.arrowup = () => move(0, -1);
        actions.arrowdown = () => move(0, 1);
        if (hand.floating) {
          // What floats is moved a pixel of the screen, with Shift ten.
          const nudge = (dx: number, dy: number) => () => {
            const far = (e.shiftKey ? 10 : 1) / Math.min(1, v?.scale() ?? 1);
            const [x, y] = hand.floating!.at;
            hand.changeFloating({ ...hand.floating!, at: [x + dx * far, y + dy * far], agreement: undefined });
          };
          Object.assign(actions, {
            arrowleft: nudge(-1, 0),
            arrowright: nudge(1, 0),
            arrowup: nudge(0, -1),
            arrowdown: nudge(0, 1),
          });
        }
        actions[' '] = () => {
          if (hand.mode && v) {
            // A dab at the cross; with Shift a straight run from the last one.
            setByKeys(true);
            const [x, y] = centre();
            if (hand.mode === 'patch' || hand.mode === 'transplant') return;
            if (hand.startStroke(x, y, 1, e.shiftKey)) hand.endStroke();
            return;
          }
          if (!tool || !v) return;
          setByKeys(true);
          if (tool === 'brush') onShape({ op: 'add', kind: 'brush', points: [centre()], size });
          else setDraft((d) => [...d, centre()]);
        };
        actions.enter = () => {
          if (hand.floating) return hand.putDown();
          if (draft.length && tool) {
            const shape = draftShape(tool, draft, size);
            setDraft([]);
            if (shape && (shape.kind === 'box' || shape.points.length > 1)) onShape(shape);
          } else if (repair && faults[0]) {
            clock.done(faults[0]);
            void edits.edit({ type: 'changeFault', id: faults[0].id, set: { state: 'checked' } });
            next(1);
          }
        };
      }
      const action = actions[key];
      if (action) {
        e.preventDefault();
        action();
      }
    };
    const onUp = (e: KeyboardEvent) => {
      const key = e.key.toLowerCase();
      if (key === 'b') setHeld(false);
      if (key !== 'd' || !donorHeld) return;
      setDonorHeld(false);
      // Pressed without a click, the key sets the donor where the pointer or the cross stands.
      const v = handle.current;
      const c = v?.viewer.viewport.getContainerSize();
      const place = pointerAt.current ?? (v && c ? v.toImage(c.x / 2, c.y / 2) : null);
      if (!donorClicked.current && place) hand.setDonor(place);
      if (!pointerAt.current) setByKeys(true);
    };
    window.addEventListener('keydown', onKey);
    window.addEventListener('keyup', onUp);
    return () => {
      window.removeEventListener('keydown', onKey);
      window.removeEventListener('keyup', onUp);
    };
  });

  if (!state) {
    return (
      <Shell>
        <StageBar />
        <main>
          <Column>
            {error ? (
              <>
                <h1>The picture could not be opened</h1>
                <p role="alert">{(error as Error).message}</p>
              </>
            ) : (
              <p role="status">Opening the picture…</p>
            )}
          </Column>
        </main>
      </Shell>
    );
  }
  const saved = {
    saved: 'Saved',
    saving: 'Saving…',
    failed: `${edits.waiting} not saved yet, trying again`,
  }[edits.state];
  return (
    <Shell>
      <StageBar place={{ jobId: state.picture.jobId, pictureId }}>
        <span className="title">{state.picture.name}</span>
        <Select
          aria-label="Zoom"
          value=""
          onChange={(e) => (e.target.value === 'fit' ? handle.current?.fit() : zoomTo(Number(e.target.value)))}
        >
          <option value="" disabled>
            {view ? `${Math.round(view.scale * 100)} %` : 'Zoom'}
          </option>
          <option value="fit">whole</option>
          {[0.5, 1, 2, 4, 8, 16].map((z) => (
            <option key={z} value={z}>
              {z * 100} %
            </option>
          ))}
        </Select>
        <Saved $state={edits.state} role="status">
          {saved}
        </Saved>
        <Button
          kind="quiet"
          aria-label={state.undo ? `Undo: ${state.undo}` : 'Nothing to undo'}
          isDisabled={!state.undo}
          onPress={() => step('undo')}
        >
          <Undo2 size={16} aria-hidden /> Undo
        </Button>
        <Button
          kind="quiet"
          aria-label={state.redo ? `Redo: ${state.redo}` : 'Nothing to redo'}
          isDisabled={!state.redo}
          onPress={() => step('redo')}
        >
          <Redo2 size={16} aria-hidden /> Redo
        </Button>
        <Button kind="quiet" aria-label="Keys at the bench" onPress={() => setHelp(true)}>
          ?
        </Button>
      </StageBar>
      <main style={{ overflow: 'hidden' }}>
        <h1 className="visually-hidden">Bench: {state.picture.name}</h1>
        <Bench>
          <Worklist
            state={state}
            viewing={viewing}
            order={order}
            onOrder={(o) => {
              setOrder(o);
              localStorage.setItem('worklistOrder', o);
            }}
            clock={clock}
            selected={selected}
            onSelect={select}
          />
          <div className="work">
            <Verbs role="toolbar" aria-label="Verbs">
              <Strip
                aria-label="What the pointer does"
                selectionMode="single"
                selectedKeys={isHand(mode) ? [] : [isArea(mode) ? 'mark' : mode]}
                onSelectionChange={(k) => setMode(([...k][0] as Mode | undefined) ?? 'look')}
              >
                <Toggle id="look">Look</Toggle>
                <Toggle id="mark">Mark</Toggle>
                <Toggle id="trace">Trace</Toggle>
              </Strip>
              <Button isDisabled={!faults.length} onPress={() => fillNow.current?.()}>
                Fill
              </Button>
              <Strip
                aria-label="What is done by hand"
                selectionMode="single"
                selectedKeys={isHand(mode) ? [mode] : []}
                onSelectionChange={(k) => setMode(([...k][0] as Mode | undefined) ?? 'look')}
              >
                {HAND_MODES.map((m) => (
                  <Toggle key={m} id={m}>
                    {m[0].toUpperCase() + m.slice(1)}
                  </Toggle>
                ))}
              </Strip>
              <span className="gap" />
              <Toggle isSelected={markers} onChange={setMarkers}>
                Markers
              </Toggle>
              {mode === 'trace' && (
                <div style={{ display: 'flex', gap: 10, width: '100%', alignItems: 'center' }}>
                  <span className="quiet">
                    Click one end of a strand, then the other; hold Shift for points between.
                  </span>
                  <span className="gap" />
                  <Button isDisabled={!traced} onPress={() => void edits.mesh(faults.map((f) => f.id))}>
                    Complete the mesh
                  </Button>
                </div>
              )}
              <HandBar state={state} hand={hand} onSize={setSize} />
              {mode !== 'look' && mode !== 'trace' && !isHand(mode) && (
                <div style={{ display: 'flex', gap: 8, width: '100%', alignItems: 'center', flexWrap: 'wrap' }}>
                  <Strip
                    aria-label="Shape"
                    selectionMode="single"
                    disallowEmptySelection
                    selectedKeys={[tool!]}
                    onSelectionChange={(k) => {
                      setShapeTool([...k][0] as ShapeTool);
                      setDraft([]);
                    }}
                  >
                    {SHAPES.filter(
                      (s) => mode === 'mark' || (DRAWN_BY[mode] ? s.id === DRAWN_BY[mode] : s.id !== 'strand'),
                    ).map((s) => (
                      <Toggle key={s.id} id={s.id}>
                        {s.name}
                      </Toggle>
                    ))}
                  </Strip>
                  {(tool === 'brush' || tool === 'strand') && (
                    <div className="size">
                      <Slider
                        label={tool === 'strand' ? 'Width' : 'Size'}
                        unit="px"
                        min={1}
                        max={200}
                        value={Math.min(200, size)}
                        onChange={setSize}
                      />
                    </div>
                  )}
                  <Strip
                    aria-label="Into"
                    selectionMode="single"
                    disallowEmptySelection
                    selectedKeys={[mode === 'mark' ? into : mode]}
                    onSelectionChange={(k) => {
                      const key = [...k][0] as Into | AreaMode;
                      setDraft([]);
                      if (key in NO_AREAS) return setMode(key as AreaMode);
                      setMode('mark');
                      setInto(key as Into);
                    }}
                  >
                    <Toggle id="new">New fault</Toggle>
                    <Toggle id="add" isDisabled={faults.length !== 1}>
                      Add to it
                    </Toggle>
                    <Toggle id="take" isDisabled={faults.length !== 1}>
                      Take from it
                    </Toggle>
                    <Toggle id="donor" isDisabled={!faults.length}>
                      Donor area
                    </Toggle>
                    <Toggle id="barred" isDisabled={!faults.length}>
                      Barred area
                    </Toggle>
                    <Toggle id="edges" isDisabled={!faults.length}>
                      Edge runs on
                    </Toggle>
                    <Toggle id="grounds" isDisabled={!faults.length}>
                      Ground reaches
                    </Toggle>
                  </Strip>
                  {draft.length > 0 && (
                    <Button
                      onPress={() => {
                        const shape = draftShape(tool, draft, size);
                        setDraft([]);
                        if (shape && (shape.kind === 'box' || shape.points.length > 1)) onShape(shape);
                      }}
                    >
                      Finish
                    </Button>
                  )}
                  {isArea(mode) && areas[mode].length > 0 && (
                    <Button kind="quiet" onPress={() => setAreas((a) => ({ ...a, [mode]: [] }))}>
                      Clear
                    </Button>
                  )}
                </div>
              )}
            </Verbs>
            <CloseUp
              state={state}
              surround={SURROUNDS[surround]}
              compare={shown}
              only={only}
              divider={divider}
              onDivider={setDivider}
              markers={markers && !held}
              hatched={hatched}
              preview={preview}
              tool={tool}
              size={size}
              onShape={onShape}
              onPick={onPick}
              onHandle={onHandle}
              onView={setView}
              draft={draft}
              setDraft={setDraft}
              keyboardCursor={byKeys && tool !== null}
              twoPoints={mode === 'trace'}
            >
              <HandLayer
                state={state}
                handle={viewHandle}
                hand={hand}
                donors={proposal?.donors ?? []}
                markers={markers && !held}
                keyboardCursor={byKeys && hand.mode !== null}
                donorHeld={donorHeld}
                donorClicked={donorClicked}
                pointerAt={pointerAt}
              />
            </CloseUp>
            <TreatmentCard
              state={state}
              longSideMm={longSideMm}
              faults={faults}
              repair={repair}
              layerId={chosenLayer}
              onLayer={setLayerId}
              edits={edits}
              areas={areas}
              onHover={setPreview}
              onNext={() => next(1)}
              onDone={clock.done}
              fillNow={fillNow}
              hand={hand}
              proposal={proposal}
              onMode={setMode}
              onUse={takeUpProposal}
              repairs={repairs}
              onRepair={setChosenRepair}
            />
          </div>
          <div className="side">
            <ArmsLength
              state={state}
              surround={SURROUNDS[surround]}
              compare={shown}
              only={only}
              view={view}
              onGo={(x, y) => handle.current?.centreOn(x, y)}
            />
            <div className="compare">
              <Strip
                aria-label="Comparison"
                selectionMode="single"
                selectedKeys={compare === 'repaired' ? [] : [compare]}
                onSelectionChange={(k) => setCompare(([...k][0] as Compare | undefined) ?? 'repaired')}
              >
                <Toggle id="before">Before</Toggle>
                <Toggle id="divider">Divider</Toggle>
                <Toggle id="difference">Difference</Toggle>
                <Toggle id="changes">Changes</Toggle>
              </Strip>
            </div>
            <p>
              <span>At arm’s length</span>
              <label>
                Surround{' '}
                <Select
                  value={surround}
                  style={{ minHeight: 24, padding: '1px 4px', fontSize: 12 }}
                  onChange={(e) => {
                    setSurround(e.target.value as Surround);
                    localStorage.setItem('surround', e.target.value);
                  }}
                >
                  <option>light</option>
                  <option>mid</option>
                  <option>dark</option>
                </Select>
              </label>
            </p>
            <Layers state={state} edits={edits} chosen={layerId} onChoose={setLayerId} only={only} onOnly={setOnly} />
          </div>
        </Bench>
      </main>
      {clock.tired && <Rest onRested={clock.rested} />}
      <ShortcutList isOpen={help} onClose={() => setHelp(false)} />
      <Notices pictureId={pictureId} refusal={edits.refusal} onDismiss={edits.dismiss} />
    </Shell>
  );
}
