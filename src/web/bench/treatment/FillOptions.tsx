import type { Repair } from '../../../contract/document.ts';
import type { FillSpec } from '../../../core/repair/spec.ts';
import type { Tone } from '../../../core/repair/fill/settings.ts';
import { Check, Select } from '../../ui/controls.tsx';
import { isFill } from '../useTreating.ts';
import { useBench } from '../useBench.ts';

/** The fill that a repair shows; null of other methods. */
export function fillOf(repair: Repair | undefined): FillSpec | null {
  const spec = repair?.tries.find((t) => t.id === repair.chosen)?.spec;
  return spec?.method === 'fill' ? spec : null;
}

/** How tone and donors of a fill are chosen: of the next one, and of all that are there where several faults are chosen. */
export function FillOptions() {
  const { state, faults, fill, setFill, edits } = useBench();
  const own = state.document.repairs.filter(
    (r) => isFill(r) && r.faultIds.some((id) => faults.some((f) => f.id === id)),
  );
  const change = (set: Partial<typeof fill>) => {
    setFill(set);
    if (faults.length < 2 || !own.length) return;
    void edits.edit({ type: 'changeFills', ids: own.map((r) => r.id), set });
  };
  return (
    <>
      <label className="row">
        Tone from around
        <Select value={fill.tone} onChange={(e) => change({ tone: e.target.value as Tone })}>
          <option value="none">none</option>
          <option value="gentle">gentle</option>
          <option value="strong">strong</option>
        </Select>
      </label>
      <div className="row" role="group" aria-label="Donors may be" style={{ flexWrap: 'wrap', gap: '4px 10px' }}>
        <span className="quiet">Donors may be</span>
        {(['turn', 'scale', 'mirror'] as const).map((k) => (
          <Check key={k} isSelected={fill[k]} onChange={(on) => change({ [k]: on })}>
            {{ turn: 'turned', scale: 'scaled', mirror: 'mirrored' }[k]}
          </Check>
        ))}
      </div>
    </>
  );
}
