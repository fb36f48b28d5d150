import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import styled from 'styled-components';
import type { Job } from '../../contract/studio.ts';
import { useJobs } from '../lib/api.ts';
import { JOBS, VIEWS } from '../../contract/addresses.ts';
import { addressOf } from '../../contract/endpoint.ts';
import { call } from '../lib/http.ts';
import { toStage, workStage } from '../lib/stages.ts';
import { when } from '../lib/format.ts';
import { theme } from '../theme.ts';
import { Button } from '../ui/controls.tsx';
import { Confirm, Dialog } from '../ui/dialog.tsx';
import { Notices } from '../ui/notices.tsx';
import { Column, Shell, StageBar } from '../ui/page.tsx';
import { JobForm } from './JobForm.tsx';

const Head = styled.div`
  display: flex;
  align-items: end;
  gap: 20px;
  p {
    color: ${theme.quiet};
    max-width: 62ch;
    margin-top: 4px;
  }
  > :last-child {
    margin-left: auto;
  }
`;
const Row = styled.article`
  display: grid;
  grid-template-columns: 300px 1fr auto;
  gap: 4px 24px;
  padding: 18px 0;
  border-top: 1px solid ${theme.rule};
  align-items: start;
  h2 {
    font-size: 17px;
  }
  .facts {
    color: ${theme.quiet};
    font-size: 13px;
    display: grid;
    gap: 2px;
  }
  .brief {
    margin: 6px 0 0;
    max-width: 60ch;
  }
  .strip {
    display: flex;
    gap: 6px;
    height: 132px;
    overflow: hidden;
  }
  .strip a {
    display: block;
    flex: 1 1 0;
    min-width: 0;
    background: #808080;
    overflow: hidden;
  }
  .strip img {
    width: 100%;
    height: 100%;
    object-fit: cover;
    display: block;
  }
  .strip .none {
    flex: 1;
    border: 1px dashed ${theme.ruleStrong};
    display: grid;
    place-items: center;
    color: ${theme.quiet};
    font-size: 13px;
  }
  .actions {
    display: grid;
    gap: 6px;
    justify-items: stretch;
    min-width: 128px;
  }
`;
const State = styled.span<{ $state: Job['state'] }>`
  font-size: 12px;
  font-weight: 600;
  padding: 1px 8px;
  border-radius: 2px;
  margin-left: 10px;
  vertical-align: 2px;
  display: inline-block;
  background: ${({ $state }) => ($state === 'in work' ? theme.accentTint : theme.sunk)};
  color: ${({ $state }) => ($state === 'in work' ? theme.accentDark : theme.quiet)};
`;

const POLICY = {
  documentary: 'Documentary: dust and scratches only',
  restoration: 'Restoration: respect the original',
  creative: 'Creative: whatever serves the picture',
} as const;

function JobRow({ job }: { job: Job }) {
  const navigate = useNavigate();
  const [asking, setAsking] = useState(false);
  const open = job.pictures.reduce((n, p) => n + p.openFaults, 0);
  const treated = job.pictures.reduce((n, p) => n + p.treatedFaults, 0);
  const first = job.pictures[0];
  // A new job of several pictures begins where they are seen together, and can be joined.
  const toIntake = !first || (job.state === 'new' && job.pictures.length > 1);
  return (
    <Row aria-label={job.name}>
      <div className="strip">
        {job.pictures.slice(0, 3).map((p) => (
          <Link
            key={p.id}
            to={toStage(workStage(p), { pictureId: p.id })}
            aria-label={workStage(p) === 'Bench' ? `Open ${p.name} at the bench` : `Survey ${p.name}`}
          >
            <img
              src={addressOf(VIEWS.closeUp, { id: p.id }, { side: 600, v: `r${p.revision}` })}
              alt=""
              loading="lazy"
            />
          </Link>
        ))}
        {!first && <div className="none">No pictures yet</div>}
      </div>
      <div>
        <h2>
          <Link to={toStage('Intake', { jobId: job.id })} style={{ color: 'inherit', textDecoration: 'none' }}>
            {job.name}
          </Link>
          <State $state={job.state}>{job.state}</State>
        </h2>
        {job.brief && <p className="brief">{job.brief}</p>}
        <div className="facts" style={{ marginTop: 8 }}>
          <span>
            {[job.client, `begun ${when(job.createdAt)}`, job.deliveredAt && `delivered ${when(job.deliveredAt)}`]
              .filter(Boolean)
              .join(' · ')}
          </span>
          <span>{POLICY[job.policy]}</span>
          <span className="mono">
            {job.longSideMm} mm long side · {open} open · {treated} treated
          </span>
        </div>
      </div>
      <div className="actions">
        <Button
          kind={job.state === 'delivered' ? 'plain' : 'main'}
          onPress={() =>
            void navigate(
              toIntake ? toStage('Intake', { jobId: job.id }) : toStage(workStage(first), { pictureId: first.id }),
            )
          }
        >
          {first ? (job.state === 'new' ? 'Begin' : 'Open bench') : 'Add pictures'}
        </Button>
        {!toIntake && <Button onPress={() => void navigate(toStage('Intake', { jobId: job.id }))}>Intake</Button>}
        <Button kind="quiet" onPress={() => setAsking(true)}>
          Delete…
        </Button>
      </div>
      <Confirm
        title={`Delete “${job.name}”?`}
        doing="Delete for good"
        isOpen={asking}
        onClose={() => setAsking(false)}
        onConfirm={() => call(JOBS.remove, { id: job.id })}
      >
        <p>
          Its{' '}
          {job.pictures.length === 1
            ? 'picture, with all its repairs, is'
            : `${job.pictures.length} pictures, with all their repairs, are`}{' '}
          removed from this studio for good. This cannot be undone.
        </p>
      </Confirm>
    </Row>
  );
}

/** All jobs, the newest first. */
export function JobsPage() {
  const { data: jobs, error } = useJobs();
  const [adding, setAdding] = useState(false);
  const navigate = useNavigate();
  return (
    <Shell>
      <StageBar />
      <main>
        <Column>
          <Head>
            <div>
              <h1>Jobs</h1>
              <p>
                Each job holds its pictures, what the client wants and how it is delivered. Originals are never written
                to.
              </p>
            </div>
            <Button kind="main" onPress={() => setAdding(true)}>
              New job
            </Button>
          </Head>
          <div>
            {error && <p role="alert">The jobs could not be read: {(error as Error).message} Trying again.</p>}
            {!jobs && !error && <p role="status">Reading the jobs…</p>}
            {jobs?.length === 0 && <p>No jobs yet. Make one, then drop photographs into it.</p>}
            {jobs?.map((job) => (
              <JobRow key={job.id} job={job} />
            ))}
          </div>
        </Column>
      </main>
      <Dialog title="New job" isOpen={adding} onClose={() => setAdding(false)}>
        <JobForm
          submit="Make job"
          onCancel={() => setAdding(false)}
          onSubmit={async (job) => {
            const { id } = await call(JOBS.create, {}, { body: job });
            await navigate(toStage('Intake', { jobId: id }));
          }}
        />
      </Dialog>
      <Notices />
    </Shell>
  );
}
