import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { PictureState } from '../../contract/api.ts';
import { FINDING_WORDS } from '../../core/check/words.ts';
import type { Edits } from '../lib/edits.ts';
import { toStage } from '../lib/stages.ts';
import { theme } from '../theme.ts';
import { Button, Field } from '../ui/controls.tsx';
import { Evidence } from './Evidence.tsx';
import type { Told } from './told.ts';

/** One finding with its evidence, and what can be done about it. */
export function FindingDetail({ state, told, edits }: { state: PictureState; told: Told; edits: Edits }) {
  const navigate = useNavigate();
  const [reason, setReason] = useState('');
  const place = { jobId: state.picture.jobId, pictureId: state.picture.id };
  const go = () =>
    void navigate(toStage('Bench', place), {
      state: { faultId: told.fault?.id, advice: `Check: ${FINDING_WORDS[told.kind].short}. ${told.advice}` },
    });
  const accept = () =>
    told.fault &&
    void edits.edit({
      type: 'changeFault',
      id: told.fault.id,
      set: { state: 'accepted', ...(reason.trim() && { note: reason.trim() }) },
    });
  return (
    <article className="one" aria-label="Finding">
      <div>
        <h2 style={{ padding: 0, fontSize: 18, color: theme.ink }}>
          {FINDING_WORDS[told.kind].short}
          {told.fault && `, fault ${told.fault.number} (${told.fault.kind})`}
        </h2>
        <p className="mono quiet">
          {told.figure} {told.unit} · {told.box.width} × {told.box.height} px at {told.box.x}, {told.box.y}
        </p>
      </div>
      <Evidence state={state} told={told} />
      <p>{told.advice}</p>
      <div className="does">
        <Button kind="main" isDisabled={!told.fault} onPress={go}>
          Go to the bench
        </Button>
        {told.fault?.state === 'accepted' ? (
          <>
            <Button
              onPress={() => void edits.edit({ type: 'changeFault', id: told.fault!.id, set: { state: 'treated' } })}
            >
              Take acceptance back
            </Button>
            <span className="quiet">{told.fault.note ? `Accepted: ${told.fault.note}` : 'Accepted as it is.'}</span>
          </>
        ) : (
          told.fault?.state === 'treated' && (
            <>
              <Field>
                Why it may stay
                <input value={reason} maxLength={200} onChange={(e) => setReason(e.target.value)} />
              </Field>
              <Button onPress={accept}>Accept as it is</Button>
            </>
          )
        )}
      </div>
    </article>
  );
}
