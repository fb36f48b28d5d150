import { useCallback, useMemo } from 'react';
import type { PictureState } from '../../contract/api.ts';
import type { Fault } from '../../contract/document.ts';
import { rowNames } from '../../contract/ids.ts';
import { rasterise, type Point, type Shape } from '../../core/mask/shapes.ts';
import type { Edits } from '../lib/edits.ts';
import { nextName } from '../lib/outbox.ts';
import { draftShape } from '../viewer/draft-shape.ts';
import { COLOURS, type Hatched } from '../viewer/drawing.ts';
import { handSpec, isHand, strokeShapes } from './hand/settings.ts';
import { isArea, isTakenFrom, kindFor, toolOf, type BenchState, type Into, type Mode } from './store.ts';

/** Half the side in px of what is looked at around a click. */
const CLICKED = 3;

const newest = (state: PictureState): Fault | undefined =>
  state.document.faults.reduce<Fault | undefined>((a, b) => (a && a.number > b.number ? a : b), undefined);

/** Whether the cover of a chosen fault is shown: not where there is something to judge beneath it, unless it is being changed. */
function showsChosen({ state }: Fault, isRendered: boolean, mode: Mode, into: Into): boolean {
  if (mode === 'look' || isHand(mode)) return state === 'open' && !isHand(mode);
  return state === 'open' || !isRendered || (mode === 'mark' && into !== 'new');
}

/** What is hatched on the picture: open faults, the chosen ones, and what is drawn for the next fill. */
function hatchedOf(
  { document, statuses }: PictureState,
  { selected, areas, mode, into }: Pick<BenchState, 'selected' | 'areas' | 'mode' | 'into'>,
): Hatched[] {
  const ready = new Set(statuses.flatMap((s) => (Object.values(s.tries).some((t) => t.ready) ? [s.id] : [])));
  const rendered = new Set(document.repairs.flatMap((r) => (ready.has(r.id) ? r.faultIds : [])));
  const list = document.faults.flatMap((f): Hatched[] => {
    const on = selected.includes(f.id);
    if (on ? !showsChosen(f, rendered.has(f.id), mode, into) : f.state !== 'open') return [];
    return [{ shapes: f.shapes, margin: on ? f.margin : 0, colour: on ? COLOURS.selected : COLOURS.open }];
  });
  for (const area of ['donor', 'barred', 'edges', 'grounds'] as const)
    if (areas[area].some((s) => s.op === 'add')) list.push({ shapes: areas[area], margin: 0, colour: COLOURS[area] });
  return list;
}

/** What becomes of shapes that are drawn and of places that are clicked, and what is hatched. */
export function useMarking(
  bench: BenchState,
  state: PictureState | undefined,
  faults: Fault[],
  edits: Edits,
  select: (ids: string[], go?: boolean) => void,
) {
  const { mode, into, selected, areas, draft, shape, size, addArea, setDraft, chooseRepair } = bench;
  const tool = toolOf(mode, shape);

  const onShape = useCallback(
    (drawn: Shape) => {
      if (isArea(mode)) return addArea(mode, isTakenFrom(mode) && into === 'take' ? { ...drawn, op: 'take' } : drawn);
      if (mode === 'trace') {
        if (drawn.kind === 'strand' && drawn.points.length > 1)
          void edits.trace(drawn.points).then((s) => {
            const made = s && newest(s);
            // Strands traced one after another stay chosen together, so that a mesh can be completed from them.
            if (made) select([...faults.filter((f) => f.line).map((f) => f.id), made.id], false);
          });
        return;
      }
      const target = into === 'new' ? undefined : faults[0];
      if (target) {
        const op: Shape['op'] = into === 'take' ? 'take' : 'add';
        void edits.edit({ type: 'changeFault', id: target.id, set: { shapes: [...target.shapes, { ...drawn, op }] } });
        return;
      }
      const request = nextName();
      void edits.edit({ type: 'addFault', shapes: [drawn], kind: kindFor(drawn) }, request);
      // It is there already: what is pressed next is about it.
      select([rowNames(request)()], false);
    },
    [mode, into, faults, edits, select, addArea],
  );

  /** Ends what is being drawn by clicks. */
  const finish = useCallback(() => {
    const drawn = draftShape(tool, draft, size);
    setDraft([]);
    if (drawn && (drawn.kind === 'box' || drawn.points.length > 1)) onShape(drawn);
  }, [tool, draft, size, setDraft, onShape]);

  const onPick = useCallback(
    ([x, y]: Point) => {
      if (!state || mode !== 'look') return;
      const side = 2 * CLICKED + 1;
      const box = { x: Math.floor(x) - CLICKED, y: Math.floor(y) - CLICKED, width: side, height: side };
      const hit = state.document.faults.findLast((f) => rasterise(f.shapes, box).data.some((v) => v > 0));
      if (hit) return select([hit.id], false);
      // A repair by hand may reach beyond what was marked.
      const painted = state.document.repairs.findLast((r) =>
        rasterise(strokeShapes(handSpec(r)), box).data.some((v) => v > 0),
      );
      select(painted ? painted.faultIds.slice(0, 1) : [], false);
      if (painted) chooseRepair(painted.id);
    },
    [state, select, mode, chooseRepair],
  );

  const hatched = useMemo(
    () => (state ? hatchedOf(state, { selected, areas, mode, into }) : []),
    [state, selected, areas, mode, into],
  );

  return { tool, onShape, finish, onPick, hatched };
}

export type Marking = ReturnType<typeof useMarking>;
