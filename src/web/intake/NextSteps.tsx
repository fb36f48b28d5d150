import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { Job } from '../../contract/studio.ts';
import { plural } from '../lib/format.ts';
import { PICTURES } from '../../contract/addresses.ts';
import { refreshJobs } from '../lib/api.ts';
import { call } from '../lib/http.ts';
import { toStage, type Stage } from '../lib/stages.ts';
import { Button } from '../ui/controls.tsx';
import { Confirm } from '../ui/dialog.tsx';

/** What is next for a picture, by how far it has come; and taking it out again. */
export function NextSteps({ picture: p }: { picture: Job['pictures'][number] }) {
  const navigate = useNavigate();
  const [asking, setAsking] = useState(false);
  const to = (stage: Stage) => () => void navigate(toStage(stage, { pictureId: p.id }));
  const fresh = p.openFaults + p.treatedFaults === 0;
  return (
    <>
      <p className="quiet" style={{ fontSize: 13, marginBottom: 5 }}>
        {fresh
          ? 'Next: let it be looked over, or mark at the bench what should go.'
          : p.openFaults > 0
            ? `Next: ${plural(p.openFaults, 'fault')} to treat at the bench.`
            : 'Nothing is open: look it over once more, or deliver it.'}
      </p>
      <div style={{ display: 'flex', flexWrap: 'wrap', gap: 8 }}>
        <Button kind={fresh ? 'main' : 'plain'} onPress={to('Survey')}>
          Survey
        </Button>
        <Button kind={p.openFaults > 0 ? 'main' : 'plain'} onPress={to('Bench')}>
          To the bench
        </Button>
        <Button kind={!fresh && p.openFaults === 0 ? 'main' : 'plain'} onPress={to('Deliver')}>
          Deliver
        </Button>
        <Button kind="quiet" aria-label={`Remove ${p.name}`} onPress={() => setAsking(true)}>
          Remove…
        </Button>
      </div>
      <Confirm
        title={`Remove “${p.name}”?`}
        doing="Remove for good"
        isOpen={asking}
        onClose={() => setAsking(false)}
        onConfirm={async () => {
          await call(PICTURES.remove, { id: p.id });
          await refreshJobs();
        }}
      >
        <p>
          It is taken out of this studio with its {plural(p.openFaults + p.treatedFaults, 'fault')} and all its repairs.
          The file that you sent stays where you have it. This cannot be undone.
        </p>
      </Confirm>
    </>
  );
}
