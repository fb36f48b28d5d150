import { createContext, useCallback, useContext, useMemo, useRef, useState, useEffect } from 'react';
import { useLocation } from 'react-router';
import { useStore } from 'zustand';
import type { PictureState } from '../../contract/api.ts';
import type { Repair } from '../../contract/document.ts';
import type { Point, Shape } from '../../core/mask/shapes.ts';
import { viewingOf } from '../lib/viewing.ts';
import { PICTURES } from '../../contract/addresses.ts';
import { useJobs, usePicture } from '../lib/api.ts';
import { useAnswer } from '../lib/http.ts';
import { useEdits } from '../lib/edits.ts';
import { useWorkClock } from '../worklist/useWorkClock.ts';
import { useProposal } from './hand/HandCard.tsx';
import { isHand } from './hand/settings.ts';
import { useHand } from './hand/useHand.ts';
import { createBenchStore, drawnSteps, type BenchState } from './store.ts';
import { useMarking } from './useMarking.ts';
import { useNavigation } from './useNavigation.ts';
import { useTreating } from './useTreating.ts';

const NOTHING: Shape[] = [];

/** What undo takes back and redo brings again. */
function stepsOf(bench: BenchState, state: PictureState | undefined): Record<'undo' | 'redo', string | null> {
  const drawn = drawnSteps(bench);
  return { undo: drawn.undo ?? state?.undo ?? null, redo: drawn.redo ?? state?.redo ?? null };
}

/** Everything at the bench of one picture: what is set, what follows from it, and what can be done. */
export function useBenchOf(pictureId: string) {
  const { data: state, error } = usePicture(pictureId);
  const { data: jobs } = useJobs();
  const subject = useAnswer(PICTURES.subject, { id: pictureId }).data ?? NOTHING;
  const edits = useEdits(pictureId);
  const [store] = useState(createBenchStore);
  const bench = useStore(store);
  const navigation = useNavigation(state);
  const donorClicked = useRef(false);
  const pointerAt = useRef<Point | null>(null);

  const job = jobs?.find((j) => j.id === state?.picture.jobId);
  const viewing = viewingOf(job);

  const { selected, mode, repairId, areas, choose } = bench;
  const document = state?.document;
  const faults = useMemo(
    () => selected.flatMap((id) => document?.faults.find((f) => f.id === id) ?? []),
    [selected, document],
  );
  const [fault] = faults;
  const repairs = useMemo(
    () => (fault ? (document?.repairs.filter((r) => r.faultIds.includes(fault.id)) ?? []) : []),
    [fault, document],
  );
  const repair: Repair | undefined = repairs.find((r) => r.id === repairId) ?? repairs.at(-1);
  const clock = useWorkClock(pictureId, fault);
  const proposal = useProposal(
    state,
    faults.length === 1 && (isHand(mode) || (!repair && fault.state === 'open')) ? fault : undefined,
    areas.barred,
  );
  const layerThere = (id: string | null) => (id && document?.layers.some((l) => l.id === id) ? id : null);
  const layerId = layerThere(bench.layerId);

  const { goTo } = navigation;
  const select = useCallback(
    (ids: string[], go = true) => {
      choose(ids);
      if (go && ids.length === 1) goTo(ids[0]);
    },
    [choose, goTo],
  );
  // From another stage with a fault to go to.
  const from = useLocation().state as { faultId?: string; advice?: string } | null;
  const asked = from?.faultId;
  const gone = useRef(false);
  useEffect(() => {
    if (!asked || gone.current || !navigation.viewer) return;
    gone.current = true;
    select([asked]);
  }, [asked, navigation.viewer, select]);
  const hand = useHand({
    state,
    mode,
    setMode: bench.pickVerb,
    fault,
    repair,
    layerId,
    edits,
    size: bench.size,
    barred: areas.barred,
    subject,
    strength: proposal?.strength,
    viewer: navigation.viewer,
    select,
  });
  const marking = useMarking(bench, state, faults, edits, select);
  const treating = useTreating({ bench, state, faults, repair, layerId, edits, clock, hand, select });

  return {
    ...bench,
    pictureId,
    job,
    /** what another stage proposes for the fault it led to */
    advice: asked && fault?.id === asked ? from.advice : undefined,
    state,
    error: error,
    viewing,
    edits,
    clock,
    faults,
    fault,
    repairs,
    repair,
    proposal,
    layerId,
    onlyLayer: layerThere(bench.onlyLayer),
    /** whether a mesh can be completed from what is chosen */
    traced: faults.length > 1 && faults.every((f) => f.line),
    select,
    hand,
    marking,
    treating,
    navigation,
    donorClicked,
    pointerAt,
    /** What undo takes back and redo brings again: what is being drawn goes before edits. */
    steps: stepsOf(bench, state),
    step: (direction: 'undo' | 'redo') => {
      if (direction === 'undo' ? bench.undoDrawn() : bench.redoDrawn()) return;
      void edits.step(direction);
    },
    /** Drops what is being drawn or floats. */
    drop: () => {
      hand.changeFloating(null);
      hand.setArmed(false);
      hand.dropStroke();
      bench.setDraft([]);
      bench.pointAt(null);
    },
  };
}

export type OpeningBench = ReturnType<typeof useBenchOf>;
/** The bench once its picture is open. */
export type Bench = OpeningBench & { state: PictureState };

export const BenchContext = createContext<Bench | null>(null);

/** The bench that a part of it stands at. */
export function useBench(): Bench {
  const bench = useContext(BenchContext);
  if (!bench) throw new Error('This stands at no bench.');
  return bench;
}
