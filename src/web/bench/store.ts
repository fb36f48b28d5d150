import { createStore, type StoreApi } from 'zustand';
import type { FaultKind } from '../../contract/document.ts';
import type { Point, Shape } from '../../core/mask/shapes.ts';
import type { Tone } from '../../core/repair/fill/settings.ts';
import type { Surround } from '../theme.ts';
import type { Preview } from '../viewer/CloseUp.tsx';
import type { ShapeTool } from '../viewer/draft-shape.ts';
import type { Compare } from '../viewer/usePictureViewer.ts';
import type { Order, Shown } from '../worklist/rows.ts';
import { isHand, type HandMode } from './hand/settings.ts';

/** What is painted to be heeded by the next fill. */
export interface FillAreas {
  donor: Shape[];
  barred: Shape[];
  /** lines along which an edge runs on inside the cover */
  edges: Shape[];
  /** strokes that begin on the ground they spread */
  grounds: Shape[];
}
export type AreaMode = keyof FillAreas;
export type Mode = 'look' | 'mark' | 'trace' | AreaMode | HandMode;
/** Whether a mark becomes a fault of its own, or is added to or taken from the chosen one. */
export type Into = 'new' | 'add' | 'take';

export const NO_AREAS: FillAreas = { donor: [], barred: [], edges: [], grounds: [] };
export const isArea = (mode: Mode): mode is AreaMode => mode in NO_AREAS;
/** Areas that parts can be taken away from; lines and strokes are drawn anew instead. */
export const isTakenFrom = (mode: Mode): mode is 'donor' | 'barred' => mode === 'donor' || mode === 'barred';
export const AREA_WORDS: Record<AreaMode, string> = {
  donor: 'donor area',
  barred: 'barred area',
  edges: 'guide',
  grounds: 'ground stroke',
};

/** What undo takes back of what is being drawn, and redo brings again; null where that is an edit. */
export function drawnSteps({ draft, drawn, undrawn }: Pick<BenchState, 'draft' | 'drawn' | 'undrawn'>): {
  undo: string | null;
  redo: string | null;
} {
  const last = drawn.at(-1);
  const next = undrawn.at(-1);
  return {
    undo: draft.length ? 'last point' : last ? `${AREA_WORDS[last.mode]}, last stroke` : null,
    redo: next ? `${AREA_WORDS[next.mode]}, last stroke` : null,
  };
}
/** The one shape that some areas are drawn with. */
export const DRAWN_BY: Partial<Record<Mode, ShapeTool>> = { edges: 'strand', grounds: 'brush' };

export const SHAPES: ReadonlyArray<{ id: ShapeTool; name: string; key: string }> = [
  { id: 'brush', name: 'Brush', key: 'Q' },
  { id: 'outline', name: 'Outline', key: 'W' },
  { id: 'corners', name: 'Corners', key: 'E' },
  { id: 'box', name: 'Box', key: 'R' },
  { id: 'strand', name: 'Strand', key: 'T' },
];

/** What is drawn with in a mode; null where nothing is. */
export function toolOf(mode: Mode, shape: ShapeTool): ShapeTool | null {
  if (mode === 'look' || isHand(mode)) return null;
  if (mode === 'trace') return 'strand';
  return DRAWN_BY[mode] ?? (mode !== 'mark' && shape === 'strand' ? 'brush' : shape);
}

/** The kind that a fault is taken for by how it was marked. */
export const kindFor = (shape: Shape): FaultKind =>
  shape.kind === 'strand'
    ? 'strand'
    : shape.kind === 'brush' && shape.points.length < 3 && shape.size <= 60
      ? 'speck'
      : 'object';

/** Widest brush, px. */
const WIDEST = 600;

interface Values {
  mode: Mode;
  shape: ShapeTool;
  into: Into;
  /** of brush and strand, px */
  size: number;
  /** ids of the chosen faults, the first one first */
  selected: string[];
  layerId: string | null;
  repairId: string | null;
  /** the layer that is shown alone */
  onlyLayer: string | null;
  /** points of what is being drawn by clicks */
  draft: Point[];
  areas: FillAreas;
  /** strokes of areas in the order in which they were drawn since the last fill, and those that were taken back */
  drawn: ReadonlyArray<{ mode: AreaMode; shape: Shape }>;
  undrawn: ReadonlyArray<{ mode: AreaMode; shape: Shape }>;
  fill: { tone: Tone; turn: boolean; scale: boolean; mirror: boolean };
  /** a try that is pointed at */
  preview: Preview | null;
  compare: Compare;
  /** the picture as it came is shown while a key is held */
  held: boolean;
  divider: number;
  markers: boolean;
  /** nothing is drawn on the picture but the brush */
  bare: boolean;
  surround: Surround;
  /** the picture has the whole window */
  whole: boolean;
  order: Order;
  shown: Shown;
  donorHeld: boolean;
  /** a cross in the middle is worked with instead of the pointer */
  byKeys: boolean;
  help: boolean;
}

interface Actions {
  pickVerb(mode: Mode): void;
  pickShape(shape: ShapeTool): void;
  /** marks go there; without changing the verb */
  setInto(into: Into): void;
  /** takes up marking, into that */
  markInto(into: Into): void;
  setSize(size: number): void;
  /** wider or narrower, by a fifth */
  resize(wider: boolean): void;
  choose(ids: string[]): void;
  chooseRepair(id: string | null): void;
  chooseLayer(id: string | null): void;
  showOnly(layerId: string | null): void;
  setDraft(points: Point[]): void;
  addArea(mode: AreaMode, shape: Shape): void;
  clearArea(mode: AreaMode): void;
  /** takes the last point or stroke of what is being drawn back; false where there is none */
  undoDrawn(): boolean;
  /** brings it again; false where there is none */
  redoDrawn(): boolean;
  /** a fill has taken up what was drawn: undo takes that back first */
  settleDrawn(): void;
  setFill(change: Partial<Values['fill']>): void;
  pointAt(preview: Preview | null): void;
  /** shows a comparison; the same once more: the repaired picture */
  compareBy(compare: Compare): void;
  hold(held: boolean): void;
  moveDivider(at: number): void;
  toggleMarkers(): void;
  toggleBare(): void;
  setSurround(surround: Surround): void;
  toggleWhole(on?: boolean): void;
  setOrder(order: Order): void;
  setShown(shown: Shown): void;
  holdDonor(held: boolean): void;
  useKeys(on: boolean): void;
  showHelp(on: boolean): void;
}

export type BenchState = Values & Actions;

/** A value that outlives the window, kept by name. */
const kept = <T extends string>(name: string, otherwise: T): T => (localStorage.getItem(name) as T | null) ?? otherwise;
const keep = <T extends string>(name: string, value: T): T => {
  localStorage.setItem(name, value);
  return value;
};

/** What the bench is set to, with everything that changes it by name. One for each picture that is opened. */
export const createBenchStore = (): StoreApi<BenchState> =>
  createStore<BenchState>()((set, get) => ({
    mode: 'look',
    shape: 'brush',
    into: 'new',
    size: 24,
    selected: [],
    layerId: null,
    repairId: null,
    onlyLayer: null,
    draft: [],
    areas: NO_AREAS,
    drawn: [],
    undrawn: [],
    fill: { tone: 'strong', turn: false, scale: false, mirror: false },
    preview: null,
    compare: 'repaired',
    held: false,
    divider: 0.5,
    markers: true,
    bare: false,
    surround: kept('surround', 'mid'),
    whole: false,
    order: kept('worklistOrder', 'work'),
    shown: kept('worklistShown', 'all'),
    donorHeld: false,
    byKeys: false,
    help: false,

    pickVerb: (mode) => set({ mode, draft: [] }),
    pickShape: (shape) => set(({ mode }) => ({ shape, draft: [], mode: mode === 'look' ? 'mark' : mode })),
    setInto: (into) => set({ into }),
    markInto: (into) => set({ into, mode: 'mark', draft: [] }),
    setSize: (size) => set({ size }),
    resize: (wider) =>
      set(({ size: s }) => ({
        size: wider
          ? Math.min(WIDEST, Math.max(s + 1, Math.round(s * 1.2)))
          : Math.max(1, Math.round(s / 1.2) - (s < 6 ? 1 : 0)),
      })),
    choose: (selected) =>
      set({ selected, repairId: null, preview: null, areas: NO_AREAS, drawn: [], undrawn: [], into: 'new' }),
    chooseRepair: (repairId) => set({ repairId }),
    chooseLayer: (layerId) => set({ layerId }),
    showOnly: (onlyLayer) => set({ onlyLayer }),
    setDraft: (draft) => set({ draft }),
    addArea: (mode, shape) =>
      set(({ areas, drawn }) => ({
        areas: { ...areas, [mode]: [...areas[mode], shape] },
        drawn: [...drawn, { mode, shape }],
        undrawn: [],
      })),
    clearArea: (mode) =>
      set(({ areas, drawn }) => ({ areas: { ...areas, [mode]: [] }, drawn: drawn.filter((d) => d.mode !== mode) })),
    undoDrawn: () => {
      const { draft, drawn, undrawn, areas } = get();
      const last = drawn.at(-1);
      if (draft.length) set({ draft: draft.slice(0, -1) });
      else if (last)
        set({
          areas: { ...areas, [last.mode]: areas[last.mode].filter((s) => s !== last.shape) },
          drawn: drawn.slice(0, -1),
          undrawn: [...undrawn, last],
        });
      return draft.length > 0 || last !== undefined;
    },
    redoDrawn: () => {
      const { drawn, undrawn, areas } = get();
      const next = undrawn.at(-1);
      if (next)
        set({
          areas: { ...areas, [next.mode]: [...areas[next.mode], next.shape] },
          drawn: [...drawn, next],
          undrawn: undrawn.slice(0, -1),
        });
      return next !== undefined;
    },
    settleDrawn: () => set({ drawn: [], undrawn: [] }),
    setFill: (change) => set(({ fill }) => ({ fill: { ...fill, ...change } })),
    pointAt: (preview) => set({ preview }),
    compareBy: (compare) => set((s) => ({ compare: s.compare === compare ? 'repaired' : compare })),
    hold: (held) => set({ held }),
    moveDivider: (divider) => set({ divider }),
    toggleMarkers: () => set(({ markers }) => ({ markers: !markers })),
    toggleBare: () => set(({ bare }) => ({ bare: !bare })),
    setSurround: (surround) => set({ surround: keep('surround', surround) }),
    toggleWhole: (on) => set(({ whole }) => ({ whole: on ?? !whole })),
    setOrder: (order) => set({ order: keep('worklistOrder', order) }),
    setShown: (shown) => set({ shown: keep('worklistShown', shown) }),
    holdDonor: (donorHeld) => set({ donorHeld }),
    useKeys: (byKeys) => set({ byKeys }),
    showHelp: (help) => set({ help }),
  }));
