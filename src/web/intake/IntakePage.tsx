import { useRef, useState } from 'react';
import { DropZone, FileTrigger, type FileDropItem } from 'react-aria-components';
import { Link, useParams } from 'react-router';
import styled from 'styled-components';
import type { Facts } from '../../contract/studio.ts';
import { printMm } from '../../core/frame/delivery.ts';
import { JobForm } from '../jobs/JobForm.tsx';
import { refreshJobs, upload, useJobs } from '../lib/api.ts';
import { JOBS, VIEWS } from '../../contract/addresses.ts';
import { addressOf } from '../../contract/endpoint.ts';
import { call } from '../lib/http.ts';
import { toStage } from '../lib/stages.ts';
import { bytes, count, megapixels, millimetres, percent, when } from '../lib/format.ts';
import { theme } from '../theme.ts';
import { Button } from '../ui/controls.tsx';
import { FromLetterbox } from './FromLetterbox.tsx';
import { JoinFrames } from './JoinFrames.tsx';
import { NextSteps } from './NextSteps.tsx';
import { JoinedFrames } from './JoinedFrames.tsx';
import { Notices } from '../ui/notices.tsx';
import { Column, Shell, StageBar } from '../ui/page.tsx';

const Layout = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) 320px;
  gap: 34px;
  align-items: start;
`;
const Drop = styled(DropZone)`
  border: 1.5px dashed ${theme.ruleStrong};
  border-radius: 4px;
  padding: 20px;
  display: flex;
  gap: 14px;
  align-items: center;
  background: ${theme.sheet};
  &[data-drop-target] {
    border-color: ${theme.accent};
    background: ${theme.accentTint};
  }
  p {
    color: ${theme.quiet};
    font-size: 13px;
  }
`;
const Card = styled.article`
  display: grid;
  grid-template-columns: 300px 1fr;
  gap: 22px;
  padding: 18px 0;
  border-top: 1px solid ${theme.rule};
  img {
    width: 100%;
    max-height: 240px;
    object-fit: contain;
    background: #808080;
    display: block;
  }
  dl {
    display: grid;
    grid-template-columns: 112px 1fr;
    gap: 3px 12px;
    margin: 8px 0 12px;
    font-size: 13px;
  }
  dt {
    color: ${theme.quiet};
  }
  dd {
    margin: 0;
  }
`;
const Sending = styled.div`
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 4px 12px;
  padding: 8px 0;
  font-size: 13px;
  align-items: center;
  progress {
    grid-column: 1 / -1;
    width: 100%;
    height: 6px;
  }
`;

interface Upload {
  name: string;
  done: number;
  problem?: string;
  stop: AbortController;
}

function FactsList({ facts }: { facts: Facts }) {
  const { width, height, ppi } = facts;
  const down = facts.ppiDown ?? ppi;
  const inches = (px: number, per: number | null) => (px / (per ?? 1)).toFixed(1);
  const rows: Array<[string, string]> = [
    ['Pixels', `${count(width)} × ${count(height)} · ${megapixels(width, height)}`],
    ['Resolution', ppi ? `${ppi === down ? ppi : `${ppi} × ${down}`} ppi` : 'not stated'],
    [
      'Print size',
      ppi && down
        ? `${millimetres(printMm(width, ppi), printMm(height, down))} · ${inches(width, ppi)} × ${inches(height, down)} in`
        : 'unknown without a resolution',
    ],
    ['Mode', `${facts.mode}, ${facts.depth} bit`],
    ['Profile', facts.profile ?? 'none, shown as sRGB'],
    [
      'File',
      `${facts.format.toUpperCase()}, ${bytes(facts.bytes)}${facts.jpegQuality ? `, quality about ${facts.jpegQuality}` : ''}`,
    ],
    ['Clipped', `${percent(facts.clippedDark)} dark, ${percent(facts.clippedLight)} light`],
  ];
  return (
    <dl>
      {rows.map(([k, v]) => [
        <dt key={k}>{k}</dt>,
        <dd key={`${k}v`} className="mono">
          {v}
        </dd>,
      ])}
    </dl>
  );
}

/** A job's pictures: taking them in, and what was measured on each. */
export function IntakePage() {
  const { jobId = '' } = useParams();
  const { data: jobs, error } = useJobs();
  const job = jobs?.find((j) => j.id === jobId);
  const [uploads, setUploads] = useState<Upload[]>([]);
  const [saved, setSaved] = useState(false);
  const queue = useRef(Promise.resolve());

  const take = (files: File[]) => {
    for (const file of files) {
      const stop = new AbortController();
      const entry: Upload = { name: file.name, done: 0, stop };
      const change = (set: Partial<Upload>) =>
        setUploads((list) => list.map((u) => (u.stop === stop ? { ...u, ...set } : u)));
      setUploads((list) => [...list, entry]);
      queue.current = queue.current.then(async () => {
        try {
          await upload(jobId, file, (done) => change({ done }), stop.signal);
          setUploads((list) => list.filter((u) => u.stop !== stop));
          await refreshJobs();
        } catch (problem) {
          change({ problem: (problem as Error).message });
        }
      });
    }
  };

  return (
    <Shell>
      <StageBar place={{ jobId, pictureId: job?.pictures[0]?.id }} />
      <main>
        <Column>
          {error && <p role="alert">The job could not be read: {(error as Error).message}</p>}
          {!jobs && !error && <p role="status">Reading the job…</p>}
          {jobs && !job && (
            <>
              <h1>This job no longer exists</h1>
              <p>
                <Link to="/">All jobs</Link>
              </p>
            </>
          )}
          {job && (
            <Layout>
              <div style={{ display: 'grid', gap: 18 }}>
                <h1>{job.name}</h1>
                <Drop
                  aria-label="Drop pictures here"
                  onDrop={(e) =>
                    void Promise.all(
                      e.items.filter((i): i is FileDropItem => i.kind === 'file').map((i) => i.getFile()),
                    ).then(take)
                  }
                >
                  <FileTrigger
                    allowsMultiple
                    acceptedFileTypes={[
                      'image/jpeg',
                      'image/png',
                      'image/tiff',
                      'image/webp',
                      'image/bmp',
                      '.tif',
                      '.tiff',
                      '.bmp',
                      '.ora',
                    ]}
                    onSelect={(list) => list && take([...list])}
                  >
                    <Button kind={job.pictures.length ? 'plain' : 'main'}>Add pictures…</Button>
                  </FileTrigger>
                  <p>or drop them here: JPEG, PNG, TIFF, WebP, BMP, OpenRaster, 8 or 16 bit</p>
                </Drop>
                <FromLetterbox jobId={job.id} client={job.client} />
                {job.pictures.length > 1 && <JoinFrames key={job.id} job={job} />}
                <div aria-live="polite">
                  {uploads.map((u, i) => (
                    <Sending key={i} role="status">
                      <span>
                        {u.problem ? `${u.name}: ${u.problem}` : u.done < 1 ? `Sending ${u.name}` : `Reading ${u.name}`}
                      </span>
                      <Button
                        kind="quiet"
                        onPress={() => (u.problem ? setUploads((l) => l.filter((x) => x !== u)) : u.stop.abort())}
                      >
                        {u.problem ? 'Put away' : 'Stop'}
                      </Button>
                      {!u.problem && (
                        <progress max={1} value={u.done < 1 ? u.done : undefined} aria-label={`Taking in ${u.name}`} />
                      )}
                    </Sending>
                  ))}
                </div>
                <div>
                  {job.pictures.map((p) => (
                    <Card key={p.id} aria-label={p.name}>
                      <Link to={toStage('Bench', { pictureId: p.id })} aria-label={`Open ${p.name} at the bench`}>
                        <img src={addressOf(VIEWS.closeUp, { id: p.id }, { side: 700, v: `r${p.revision}` })} alt="" />
                      </Link>
                      <div>
                        <h2>{p.name}</h2>
                        <FactsList facts={p.facts} />
                        {p.joined && <JoinedFrames joined={p.joined} />}
                        <NextSteps picture={p} />
                      </div>
                    </Card>
                  ))}
                </div>
              </div>
              <aside aria-label="The job" style={{ display: 'grid', gap: 12 }}>
                <h2>The job</h2>
                <JobForm
                  key={job.id}
                  job={job}
                  submit="Save"
                  onSubmit={async (values) => {
                    await call(JOBS.change, { id: job.id }, { body: values });
                    setSaved(true);
                    setTimeout(() => setSaved(false), 2500);
                  }}
                />
                <p role="status" className="quiet">
                  {saved ? 'Saved.' : ''}
                </p>
                {job.record.length > 0 && (
                  <section aria-label="Record" style={{ fontSize: 13 }}>
                    <h3>Record</h3>
                    <ul style={{ margin: '4px 0 0', paddingLeft: 18 }}>
                      {job.record.map((r) => (
                        <li key={`${r.at}${r.text}`}>
                          {r.text} <span className="quiet">{when(r.at)}</span>
                        </li>
                      ))}
                    </ul>
                  </section>
                )}
              </aside>
            </Layout>
          )}
        </Column>
      </main>
      <Notices ofPictures />
    </Shell>
  );
}
