import { useState } from 'react';
import type { Repair } from '../../../contract/document.ts';
import type { LiftSpec } from '../../../core/repair/spec.ts';
import { Button } from '../../ui/controls.tsx';
import { Slider } from '../../ui/sliders.tsx';
import { wordsOf } from '../hand/words.ts';
import { useBench } from '../useBench.ts';

/** The settings of a repair that lifts; null of others. */
export function liftOf(repair: Repair): LiftSpec | null {
  const spec = repair.tries.find((t) => t.id === repair.chosen)?.spec;
  return spec?.method === 'lift' ? spec : null;
}

/** What a lift found, and how much of it is taken off. */
export function LiftPart({ repair }: { repair: Repair }) {
  const { state, edits, treating } = useBench();
  const [amount, setAmount] = useState<number | null>(null);
  const spec = liftOf(repair);
  if (!spec) return null;
  const status = state.statuses.find((s) => s.id === repair.id);
  const ready = status?.state === 'shown' ? status.tries[repair.chosen] : undefined;
  const change = (set: Partial<LiftSpec>) =>
    edits.edit({ type: 'changeSpec', id: repair.id, spec: { ...spec, ...set } });
  return (
    <>
      <h3>Lift</h3>
      <p className="reason" role="status">
        {wordsOf(status, repair) ?? 'Measuring what lies over the picture…'}
      </p>
      {ready?.box.width === 0 && !spec.anyway && (
        <div className="row">
          <Button onPress={() => void change({ anyway: true })}>Lift it anyway</Button>
          <Button onPress={() => treating.fill()}>Fill</Button>
        </div>
      )}
      <Slider
        label="Amount"
        unit="%"
        min={20}
        max={200}
        value={Math.round((amount ?? spec.amount) * 100)}
        onChange={(v) => setAmount(v / 100)}
        onChangeEnd={(v) => void change({ amount: v / 100 }).then(() => setAmount(null))}
      />
    </>
  );
}
