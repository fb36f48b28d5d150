import { useState } from 'react';
import { useParams } from 'react-router';
import styled from 'styled-components';
import { refreshJobs, useJobs, usePicture } from '../lib/api.ts';
import { stampOf } from '../lib/stamp.ts';
import { EXPORTS, JOBS, PICTURES, VIEWS } from '../../contract/addresses.ts';
import { EXPORT_FORMATS, EXPORTED, type ExportFormat } from '../../contract/exports.ts';
import { addressOf } from '../../contract/endpoint.ts';
import { call } from '../lib/http.ts';
import { plural } from '../lib/format.ts';
import { theme } from '../theme.ts';
import { Button, Check } from '../ui/controls.tsx';
import { Slider } from '../ui/sliders.tsx';
import { Notices } from '../ui/notices.tsx';
import { Column, Opening, Shell, StageBar } from '../ui/page.tsx';

const Pair = styled.div`
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 14px;
  figure {
    margin: 0;
  }
  img {
    width: 100%;
    display: block;
    background: #808080;
  }
  figcaption {
    font-size: 13px;
    color: ${theme.quiet};
    margin-top: 5px;
  }
`;
/** A row a kind of file. */
const Formats = styled.div`
  border-top: 1px solid ${theme.rule};
  section {
    display: grid;
    grid-template-columns: 136px minmax(0, 1fr) 190px 200px;
    gap: 4px 18px;
    align-items: center;
    min-height: 48px;
    padding: 6px 0;
    border-bottom: 1px solid ${theme.rule};
  }
  section > :last-child {
    grid-column: 4;
  }
  p {
    font-size: 13px;
    color: ${theme.quiet};
  }
`;

const Missing = styled.div`
  margin-top: 12px;
  padding: 11px 14px 12px;
  border: 1px solid ${theme.amber};
  background: ${theme.amberTint};
  display: grid;
  gap: 10px;
  div {
    display: flex;
    gap: 8px;
  }
`;

const save = (url: string) => {
  const a = document.createElement('a');
  a.href = url;
  a.download = '';
  a.click();
};

/** Before and after, the files for hand-over, and marking the job as delivered. */
export default function DeliverPage() {
  const { pictureId = '' } = useParams();
  const { data, error } = usePicture(pictureId);
  const { data: jobs } = useJobs();
  const [quality, setQuality] = useState(92);
  const [place, setPlace] = useState<'keep' | 'leave'>('keep');
  const [waiting, setWaiting] = useState<{ format: string; stop: AbortController } | null>(null);
  const [refusal, setRefusal] = useState<{ format: ExportFormat | null; message: string } | null>(null);
  const job = jobs?.find((j) => j.id === data?.picture.jobId);
  if (!data) return <Opening error={error} />;
  const { picture, document: doc, statuses, pixels } = data;
  const { depth } = picture.facts;
  const pending = statuses.filter((s) => s.state === 'working' || s.state === 'stale').length;
  const names = { id: pictureId };
  const failed = statuses.filter((s) => s.state === 'failed');
  const numbers = doc.repairs
    .filter((r) => failed.some((s) => s.id === r.id))
    .flatMap((r) => doc.faults.filter((f) => r.faultIds.includes(f.id)).map((f) => f.number));
  /** Waits until everything asked for is in the picture, then saves it; what is missing is said first. */
  const export_ = async (format: ExportFormat, missing: 'refuse' | 'leave' = 'refuse') => {
    const stop = new AbortController();
    setRefusal(null);
    setWaiting({ format, stop });
    try {
      await call(EXPORTS.ready, names, { query: { missing }, signal: stop.signal });
      save(addressOf(EXPORTS.file, names, { format, quality, missing, place }));
    } catch (e) {
      if (!stop.signal.aborted) setRefusal({ format, message: (e as Error).message });
    } finally {
      setWaiting(null);
    }
  };
  const again = () => {
    setRefusal(null);
    void call(PICTURES.renderAgain, names).catch((e: Error) => setRefusal({ format: null, message: e.message }));
  };
  const formats = EXPORT_FORMATS.map((format) => {
    const { name, words } = EXPORTED[format];
    return { format, name, text: words(depth) };
  });
  return (
    <Shell>
      <StageBar place={{ jobId: picture.jobId, pictureId }}>
        <span className="title">{picture.name}</span>
      </StageBar>
      <main>
        <Column>
          <div>
            <h1>Deliver {picture.name}</h1>
            <p className="quiet">
              {plural(doc.repairs.length, 'repair')} on {plural(doc.layers.length, 'layer')},{' '}
              {plural(doc.faults.filter((f) => f.state === 'open').length, 'fault')} still open.
              {pending > 0 &&
                ` ${plural(pending, 'repair')} ${pending === 1 ? 'is' : 'are'} being rendered; exports wait for that.`}
            </p>
            {(failed.length > 0 || refusal) && (
              <Missing role="alert">
                <p>
                  {refusal?.message ??
                    `${plural(failed.length, 'repair')} could not be rendered${numbers.length ? `: fault ${numbers.join(', ')}` : ''}.`}
                </p>
                <div>
                  <Button kind="main" onPress={again}>
                    Render again
                  </Button>
                  {refusal?.format && (
                    <Button onPress={() => void export_(refusal.format!, 'leave')}>
                      Export {formats.find((f) => f.format === refusal.format)?.name} without
                    </Button>
                  )}
                </div>
              </Missing>
            )}
          </div>
          <Pair>
            <figure>
              <img
                src={addressOf(VIEWS.closeUp, names, { side: 800, view: 'original', v: pixels.epoch })}
                alt="The picture as it came in"
              />
              <figcaption>As it came in</figcaption>
            </figure>
            <figure>
              <img
                src={addressOf(VIEWS.closeUp, names, { side: 800, v: stampOf(pixels) })}
                alt="The picture with its repairs"
              />
              <figcaption>With its repairs</figcaption>
            </figure>
          </Pair>
          {picture.facts.place !== false && (
            <Check isSelected={place === 'leave'} onChange={(on) => setPlace(on ? 'leave' : 'keep')}>
              {picture.facts.place
                ? 'This file names the place where it was taken (GPS). Leave that out of what is exported'
                : 'Leave out the place where it was taken (GPS), should the file name it'}
            </Check>
          )}
          <Formats>
            {formats.map((f) => (
              <section key={f.format} aria-label={f.name}>
                <h2>{f.name}</h2>
                <p>{f.text}</p>
                {f.format === 'jpeg' && (
                  <Slider label="Quality" min={50} max={100} value={quality} onChange={setQuality} />
                )}
                {waiting?.format === f.format ? (
                  <Button onPress={() => waiting.stop.abort()}>
                    {pending > 0 ? `Waiting for ${plural(pending, 'repair')} · stop` : 'Preparing · stop'}
                  </Button>
                ) : (
                  <Button
                    kind={f.format === 'tiff' ? 'main' : 'plain'}
                    isDisabled={waiting !== null}
                    onPress={() => void export_(f.format)}
                  >
                    Export {f.name}
                  </Button>
                )}
              </section>
            ))}
          </Formats>
          {job && (
            <div style={{ display: 'flex', gap: 14, alignItems: 'center' }}>
              <Button
                onPress={() =>
                  void call(JOBS.change, { id: job.id }, { body: { delivered: !job.deliveredAt } }).then(() =>
                    refreshJobs(),
                  )
                }
              >
                {job.deliveredAt ? 'Take delivery back' : 'Mark job as delivered'}
              </Button>
              <span className="quiet">
                {job.deliveredAt ? `“${job.name}” is delivered.` : 'When the client has everything.'}
              </span>
            </div>
          )}
        </Column>
      </main>
      <Notices />
    </Shell>
  );
}
