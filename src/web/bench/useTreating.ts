import { useCallback, useEffect, useRef } from 'react';
import type { Edit, PictureState, SingleEdit } from '../../contract/api.ts';
import type { Fault, Repair } from '../../contract/document.ts';
import type { Proposal } from '../../core/plan/proposal.ts';
import type { Edits } from '../lib/edits.ts';
import { canvasOfState } from '../lib/canvas.ts';
import { orderedFaults } from '../worklist/rows.ts';
import type { WorkClock } from '../worklist/useWorkClock.ts';
import type { Hand } from './hand/useHand.ts';
import type { BenchState } from './store.ts';

/** The same edit for each of several faults, taken back at once. */
export const forEach = (faults: readonly Fault[], edit: (fault: Fault) => SingleEdit): Edit =>
  faults.length === 1 ? edit(faults[0]) : { type: 'all', edits: faults.map(edit) };

/** Whether a repair is a fill. */
export const isFill = (repair: Repair | undefined): boolean => repair?.tries[0].spec.method === 'fill';

interface Treated {
  bench: BenchState;
  state: PictureState | undefined;
  faults: Fault[];
  repair: Repair | undefined;
  /** layer that new repairs go to; null: by kind */
  layerId: string | null;
  edits: Edits;
  clock: WorkClock;
  hand: Hand;
  select(ids: string[], go?: boolean): void;
}

/** What is done about the chosen faults and their repair. */
export function useTreating({ bench, state, faults, repair, layerId, edits, clock, hand, select }: Treated) {
  const { selected, order, areas, fill: settings, setSize, pickVerb } = bench;
  const [fault] = faults;
  /** faults whose fill was refused last, while they are chosen: a second press means it */
  const refused = useRef('');
  const chosen = selected.join();
  useEffect(() => {
    refused.current = '';
  }, [chosen]);

  /** Fills the chosen faults, or makes three more tries of their fill. */
  const fill = (portions = 1) => {
    if (!faults.length) return;
    const again = repair && isFill(repair) ? repair : null;
    const faultIds = again?.faultIds ?? faults.map((f) => f.id);
    const anyway = !again && refused.current === faultIds.join();
    const request = {
      faultIds,
      ...(anyway && { anyway }),
      layerId,
      repairId: again?.id ?? null,
      donorArea: areas.donor,
      barred: areas.barred,
      edges: areas.edges,
      grounds: areas.grounds,
      settings,
      portions,
    };
    bench.settleDrawn();
    void edits.fill(request).then((answer) => {
      refused.current = answer ? '' : faultIds.join();
    });
  };

  /** Takes off what lies over the picture at the chosen faults. */
  const lift = () => faults.length && void edits.edit({ type: 'lift', faultIds: faults.map((f) => f.id), layerId });

  const next = useCallback(
    (by: 1 | -1 = 1) => {
      const all = state ? orderedFaults(state.document.faults, canvasOfState(state), order) : [];
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

  const set = (change: Partial<Pick<Repair, 'strength' | 'visible' | 'layerId' | 'chosen'>>) =>
    repair && void edits.edit({ type: 'changeRepair', id: repair.id, set: change });

  /** The fault is done with as it is now, and the next one is gone to. */
  const settle = (as: 'accepted' | 'left') => {
    if (fault) {
      for (const f of faults) clock.done(f);
      void edits.edit(forEach(faults, (f) => ({ type: 'changeFault', id: f.id, set: { state: as } })));
    }
    next(1);
  };

  /** Takes up the verb and the brush that were proposed; the best donor with them where one is to be chosen. */
  const takeUp = (p: Proposal) => {
    if (p.method === 'fill') return fill();
    setSize(p.brush.size);
    hand.set({
      brush: { ...hand.settings.brush, hardness: p.brush.hardness, flow: p.brush.flow },
      feather: p.feather,
    });
    pickVerb(p.method);
    if (p.method === 'transplant' && p.twin) hand.askForTwin(p.twin);
    if (p.method === 'copy' && p.donors[0] && !hand.from) hand.setDonor(p.donors[0].at);
  };

  return {
    fill,
    lift,
    next,
    takeUp,
    settle,
    reopen: () => fault && void edits.edit({ type: 'changeFault', id: fault.id, set: { state: 'open' } }),
    /** Weaker or stronger by a share of the whole. */
    strengthen: (by: number) =>
      repair && set({ strength: Math.min(1, Math.max(0, Math.round((repair.strength + by) * 10) / 10)) }),
    toggleVisible: () => repair && set({ visible: !repair.visible }),
    setRepair: set,
    nextTry: () => {
      if (!repair || !state) return;
      const status = state.statuses.find((s) => s.id === repair.id);
      const ready = repair.tries.filter((t) => status?.tries[t.id]?.ready);
      const to = ready[(ready.findIndex((t) => t.id === repair.chosen) + 1) % ready.length];
      if (to && to.id !== repair.chosen) set({ chosen: to.id });
    },
    /** Deletes the chosen repair, or else the fault. */
    remove: () => {
      if (repair) void edits.edit({ type: 'removeRepair', id: repair.id });
      else if (fault) void edits.edit({ type: 'removeFault', id: fault.id });
    },
  };
}

export type Treating = ReturnType<typeof useTreating>;
