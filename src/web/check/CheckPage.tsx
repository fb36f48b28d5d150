import { useEffect, useMemo, useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import styled from 'styled-components';
import type { PictureState } from '../../contract/api.ts';
import { useJobs, usePicture } from '../lib/api.ts';
import { useEdits } from '../lib/edits.ts';
import { toStage } from '../lib/stages.ts';
import { viewingOf } from '../lib/viewing.ts';
import { theme } from '../theme.ts';
import { Button } from '../ui/controls.tsx';
import { Notices } from '../ui/notices.tsx';
import { Opening, Shell, StageBar } from '../ui/page.tsx';
import { FindingDetail } from './FindingDetail.tsx';
import { FindingList, useGroups } from './FindingList.tsx';
import { toldOf, type Told } from './told.ts';
import { WholePicture } from './whole/WholePicture.tsx';

const Columns = styled.div`
  display: grid;
  grid-template-columns: 300px minmax(0, 1fr);
  height: 100%;
  min-height: 0;
  .list {
    border-right: 1px solid ${theme.rule};
    overflow: auto;
    background: ${theme.sheet};
  }
  .list header {
    padding: 12px 14px 10px;
    border-bottom: 1px solid ${theme.rule};
    position: sticky;
    top: 0;
    background: ${theme.sheet};
    z-index: 1;
    display: grid;
    gap: 8px;
    justify-items: start;
  }
  h2 {
    padding: 10px 14px 3px;
    font-size: 12.5px;
    color: ${theme.quiet};
    font-weight: 600;
  }
  ol {
    list-style: none;
    margin: 0;
    padding: 0;
  }
  li button {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 1px 8px;
    width: 100%;
    padding: 7px 14px;
    border: 0;
    border-left: 3px solid transparent;
    background: none;
    text-align: left;
    cursor: pointer;
  }
  li button[aria-current='true'] {
    background: ${theme.accentTint};
    border-left-color: ${theme.accent};
  }
  .figure {
    font-size: 12px;
    color: ${theme.quiet};
    grid-column: 1 / -1;
  }
  .bar {
    align-self: center;
    width: 44px;
    height: 5px;
    background: ${theme.sunk};
  }
  .bar i {
    display: block;
    height: 100%;
    background: ${theme.amber};
  }
  .one {
    overflow: auto;
    padding: 16px 20px 24px;
    display: grid;
    gap: 14px;
    align-content: start;
  }
  .does {
    display: flex;
    gap: 8px;
    align-items: end;
    flex-wrap: wrap;
  }
  .clean {
    padding: 60px 20px;
    max-width: 460px;
    display: grid;
    gap: 10px;
    align-content: start;
  }
`;

/** Said where there is nothing to tell. */
function Clean({ state, waiting }: { state: PictureState; waiting: number }) {
  const navigate = useNavigate();
  const place = { jobId: state.picture.jobId, pictureId: state.picture.id };
  return (
    <div className="clean">
      <h2 style={{ padding: 0, fontSize: 18, color: theme.ink }}>
        {waiting > 0
          ? 'Repairs are still being measured'
          : state.document.repairs.length
            ? 'Nothing gives this picture away'
            : 'Nothing to check yet'}
      </h2>
      <p className="quiet">
        {state.document.repairs.length
          ? 'Every repair was measured for what is left over, repeats, seams, steps in tone, lost grain, smears and broken lines.'
          : 'There are no repairs yet. Mark faults at the bench, or let the survey find them.'}
      </p>
      <div>
        <Button
          kind="main"
          onPress={() => void navigate(toStage(state.document.repairs.length ? 'Deliver' : 'Survey', place))}
        >
          {state.document.repairs.length ? 'Deliver' : 'Survey'}
        </Button>
      </div>
    </div>
  );
}

/** What gives the repairs of a picture away, worst first, with the evidence. */
export default function CheckPage() {
  const { pictureId = '' } = useParams();
  const { data: state, error } = usePicture(pictureId);
  const { data: jobs } = useJobs();
  const edits = useEdits(pictureId);
  const viewing = viewingOf(jobs?.find((j) => j.id === state?.picture.jobId));
  const { longSideMm, distanceMm } = viewing;
  const checked = useMemo(
    () => (state ? toldOf(state, { longSideMm, distanceMm }) : null),
    [state, longSideMm, distanceMm],
  );
  const [key, setKey] = useState<string | null>(null);
  const [faintShown, showFaint] = useState(false);
  const [whole, showWhole] = useState(false);
  const groups = useGroups(checked?.seen);
  const order = useMemo(
    () => [
      ...groups.flatMap((g) => g.list),
      ...(faintShown ? (checked?.faint ?? []) : []),
      ...(checked?.accepted ?? []),
    ],
    [groups, checked, faintShown],
  );
  const at = Math.max(
    0,
    order.findIndex((t) => t.key === key),
  );
  const told: Told | undefined = order[at];
  const take = (t: Told) => setKey(t.key);
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.target instanceof HTMLInputElement || e.ctrlKey || e.metaKey || e.altKey) return;
      const by = e.key === 'n' || e.key === 'ArrowDown' ? 1 : e.key === 'p' || e.key === 'ArrowUp' ? -1 : 0;
      if (!by || !order.length || whole) return;
      e.preventDefault();
      take(order[Math.min(order.length - 1, Math.max(0, at + by))]);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  });
  if (!state || !checked) return <Opening error={error} />;
  const { picture } = state;
  const place = { jobId: picture.jobId, pictureId };
  return (
    <Shell>
      <StageBar place={place}>
        <span className="title">{picture.name}</span>
      </StageBar>
      <main style={{ overflow: 'hidden' }}>
        <Columns>
          <FindingList
            state={state}
            checked={checked}
            groups={groups}
            viewing={viewing}
            told={told}
            faintShown={faintShown}
            onFaint={showFaint}
            onTake={(t) => {
              showWhole(false);
              take(t);
            }}
            whole={whole}
            onWhole={() => showWhole(true)}
          />
          {whole ? (
            <WholePicture state={state} edits={edits} />
          ) : told ? (
            <FindingDetail key={told.key} state={state} told={told} edits={edits} />
          ) : (
            <Clean state={state} waiting={checked.waiting} />
          )}
        </Columns>
      </main>
      <Notices />
    </Shell>
  );
}
