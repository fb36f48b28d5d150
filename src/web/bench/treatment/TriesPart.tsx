import type { Repair } from '../../../contract/document.ts';
import { Button } from '../../ui/controls.tsx';
import { useBench, type Bench } from '../useBench.ts';
import { AreasNote, Earlier, Tries, TryThumb } from './Tries.tsx';

/** What there is to say about a fill. */
function wordsFor({ state, fault }: Bench, repair: Repair): string | undefined {
  const status = state.statuses.find((s) => s.id === repair.id);
  const spec = repair.tries.find((t) => t.id === repair.chosen)?.spec;
  const coverChanged =
    fault &&
    repair.faultIds.length === 1 &&
    spec?.method === 'fill' &&
    JSON.stringify([spec.cover, spec.margin, spec.feather]) !==
      JSON.stringify([fault.shapes, fault.margin, fault.feather]);
  if (coverChanged) return 'The cover has changed since: three more tries use it.';
  if (status?.state === 'stale') return 'Being made again: what it samples has changed.';
  if (status?.state === 'failed') return status.message;
  return status?.tries[repair.chosen]?.reason;
}

/** The tries of a fill, to choose from. */
export function TriesPart({ repair }: { repair: Repair }) {
  const bench = useBench();
  const { state, edits, areas, pointAt, treating, viewing } = bench;
  return (
    <>
      <div className="row">
        <h3 className="wide">Tries</h3>
        <Button onPress={() => treating.fill()}>Three more</Button>
      </div>
      <Earlier state={state} repair={repair} edits={edits} />
      <AreasNote areas={areas} />
      <p className="reason" role="status">
        {wordsFor(bench, repair)}
      </p>
      <Tries aria-label="Tries">
        {repair.tries.map((t, i) => (
          <TryThumb
            key={t.id}
            state={state}
            repair={repair}
            tryId={t.id}
            n={i + 1}
            viewing={viewing}
            onHover={pointAt}
            onChoose={() => {
              pointAt(null);
              treating.setRepair({ chosen: t.id });
            }}
          />
        ))}
      </Tries>
    </>
  );
}
