import { useState } from 'react';
import { Button, Select } from '../../ui/controls.tsx';
import { Slider } from '../../ui/sliders.tsx';
import { useBench } from '../useBench.ts';

/** Strength, layer and visibility of the chosen repair. */
export function RepairPart() {
  const { state, repair, faults, edits, treating } = useBench();
  const [strength, setStrength] = useState<number | null>(null);
  if (!repair) return null;
  const keepStrength = (value: number) => {
    const ids = state.document.repairs
      .filter((r) => r.faultIds.some((id) => faults.some((f) => f.id === id)))
      .map((r) => r.id);
    void edits
      .edit(
        faults.length > 1
          ? { type: 'setStrength', ids, strength: value }
          : { type: 'changeRepair', id: repair.id, set: { strength: value } },
      )
      .then(() => setStrength(null));
  };
  return (
    <>
      <Slider
        label="Strength"
        unit="%"
        min={0}
        max={100}
        value={Math.round((strength ?? repair.strength) * 100)}
        onChange={(v) => setStrength(v / 100)}
        onChangeEnd={(v) => keepStrength(v / 100)}
      />
      <Select
        aria-label="Repair layer"
        value={repair.layerId}
        onChange={(e) => treating.setRepair({ layerId: e.target.value })}
      >
        {state.document.layers.map((l) => (
          <option key={l.id} value={l.id}>
            on {l.name}
          </option>
        ))}
      </Select>
      <div className="row">
        <Button onPress={treating.toggleVisible}>{repair.visible ? 'Hide' : 'Show'}</Button>
        <Button
          kind="quiet"
          aria-label="Delete repair"
          onPress={() => void edits.edit({ type: 'removeRepair', id: repair.id })}
        >
          Delete
        </Button>
      </div>
    </>
  );
}
