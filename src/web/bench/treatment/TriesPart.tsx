import { useState } from 'react';
import type { Repair } from '../../../contract/document.ts';
import { Button } from '../../ui/controls.tsx';
import { inOrderOfVerdict } from '../../../core/check/order.ts';
import { REMEDY_WORDS } from '../../../core/check/words.ts';
import { findingsOfTry } from '../../lib/findings.ts';
import { useBench, type Bench } from '../useBench.ts';
import { FillOptions } from './FillOptions.tsx';
import { TryLook, type Look } from './TryLook.tsx';
import { AreasNote, Earlier, Tries, TryThumb } from './Tries.tsx';

/** What there is to say about a fill. */
function wordsFor({ state, fault }: Bench, repair: Repair): string | undefined {
  const status = state.statuses.find((s) => s.id === repair.id);
  const chosen = repair.tries.find((t) => t.id === repair.chosen);
  const spec = chosen?.spec;
  const coverChanged =
    fault &&
    repair.faultIds.length === 1 &&
    spec?.method === 'fill' &&
    // One that was made against what showed may cover more than was marked.
    !chosen?.remedy &&
    JSON.stringify([spec.cover, spec.margin, spec.feather]) !==
      JSON.stringify([fault.shapes, fault.margin, fault.feather]);
  if (coverChanged) return 'The cover has changed since: three more tries use it.';
  if (status?.state === 'stale') return 'Being made again: what it samples has changed.';
  if (status?.state === 'failed') return status.message;
  const reason = status?.tries[repair.chosen]?.reason;
  return chosen?.remedy
    ? `Tried by itself, since an earlier one would be seen: ${REMEDY_WORDS[chosen.remedy]}. ${reason ?? ''}`
    : reason;
}

/** Places of the tries in the order of what checks find in them, once all are measured; until then as they were made. */
function orderOfTries({ state, viewing }: Bench, repair: Repair): number[] {
  const status = state.statuses.find((s) => s.id === repair.id);
  const found = repair.tries.map((t) => findingsOfTry(status, t.id, state, viewing));
  return found.every((f) => f !== undefined) ? inOrderOfVerdict(found) : repair.tries.map((_, n) => n);
}

/** The tries of a fill, to choose from. */
export function TriesPart({ repair }: { repair: Repair }) {
  const bench = useBench();
  const { state, edits, areas, pointAt, treating, viewing } = bench;
  const [look, setLook] = useState<Look | null>(null);
  const [options, setOptions] = useState(false);
  return (
    <>
      <div className="row">
        <h3 className="wide">Tries</h3>
        <Button onPress={() => setLook({ tryId: repair.chosen, finding: null })}>Compare</Button>
        <Button onPress={() => treating.fill()}>Three more</Button>
      </div>
      <Earlier state={state} repair={repair} edits={edits} />
      <AreasNote areas={areas} />
      <p className="reason" role="status">
        {wordsFor(bench, repair)}
      </p>
      <Tries aria-label="Tries">
        {orderOfTries(bench, repair).map((i) => (
          <TryThumb
            key={repair.tries[i].id}
            state={state}
            repair={repair}
            tryId={repair.tries[i].id}
            n={i + 1}
            viewing={viewing}
            onHover={pointAt}
            onLook={(finding) => setLook({ tryId: repair.tries[i].id, finding })}
            onChoose={() => {
              pointAt(null);
              treating.setRepair({ chosen: repair.tries[i].id });
            }}
          />
        ))}
      </Tries>
      <Button kind="quiet" aria-expanded={options} onPress={() => setOptions(!options)}>
        {options ? 'Hide options' : 'Options of the next tries'}
      </Button>
      {options && <FillOptions />}
      <TryLook repair={repair} look={look} onClose={() => setLook(null)} />
    </>
  );
}
