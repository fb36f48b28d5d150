import { useState } from 'react';
import { lostOf, methodOf } from '../../../document/edits/proposed.ts';
import { atDelivery } from '../../../core/frame/delivery.ts';
import { proposeCover } from '../../../core/plan/cover.ts';
import { count, millimetres } from '../../lib/format.ts';
import { Button } from '../../ui/controls.tsx';
import { Slider } from '../../ui/sliders.tsx';
import { longSideOf } from '../../lib/canvas.ts';
import { factsOf } from '../../worklist/rows.ts';
import { useBench } from '../useBench.ts';
import { forEach, isFill } from '../useTreating.ts';

/** What was measured on the chosen fault, and how far its cover reaches. */
export function CoverPart() {
  const { state, fault, faults, edits, viewing, treating, repair } = useBench();
  const [local, setLocal] = useState<{ margin?: number; feather?: number }>({});
  if (!fault) return null;
  const facts = factsOf(fault, state);
  const mm = (px: number) => atDelivery(px, longSideOf(state), viewing);
  const { bounds } = facts;
  const filled = isFill(repair);
  return (
    <>
      <p className="facts mono">
        <span>{Math.round(facts.width)} px across</span>
        <span>
          {count(bounds.width)} × {count(bounds.height)} px
        </span>
        <span title="At delivery">{millimetres(mm(bounds.width), mm(bounds.height))}</span>
      </p>
      {/* What is lifted ends where its edge is found. */}
      {(methodOf(fault) === 'fill' || lostOf(fault).length > 0 || filled) && (
        <div className="two" role="group" aria-label="Cover">
          {(['margin', 'feather'] as const).map((of) => (
            <Slider
              key={of}
              label={of === 'margin' ? 'Margin' : 'Feather'}
              unit="px"
              min={0}
              max={40}
              value={local[of] ?? fault[of]}
              onChange={(v) => setLocal((l) => ({ ...l, [of]: v }))}
              onChangeEnd={(v) =>
                void edits
                  .edit(forEach(faults, (f) => ({ type: 'changeFault', id: f.id, set: { [of]: v } })))
                  .then(() => setLocal((l) => ({ ...l, [of]: undefined })))
              }
            />
          ))}
        </div>
      )}
      <p className="reason">{fault.advice?.reason ?? proposeCover(facts).reason}</p>
      <div className="row">
        <Button onPress={() => (fault.state === 'left' ? treating.reopen() : treating.settle('left'))}>
          {fault.state === 'left' ? 'Reopen' : 'Leave it'}
        </Button>
        <Button
          kind="quiet"
          onPress={() => void edits.edit(forEach(faults, (f) => ({ type: 'removeFault', id: f.id })))}
        >
          Remove
        </Button>
      </div>
    </>
  );
}
