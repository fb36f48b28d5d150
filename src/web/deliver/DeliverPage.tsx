import { useEffect } from 'react';
import { useParams } from 'react-router';
import styled from 'styled-components';
import { EXPORTS, PICTURES, VIEWS } from '../../contract/addresses.ts';
import { addressOf } from '../../contract/endpoint.ts';
import { EXPORTED } from '../../contract/exports.ts';
import type { PictureState } from '../../contract/api.ts';
import { useJobs, usePicture, useTasks } from '../lib/api.ts';
import { plural } from '../lib/format.ts';
import { call, useAnswer } from '../lib/http.ts';
import { stampOf } from '../lib/stamp.ts';
import { theme } from '../theme.ts';
import { Button } from '../ui/controls.tsx';
import { Notices } from '../ui/notices.tsx';
import { Column, Opening, Shell, StageBar } from '../ui/page.tsx';
import { Deliveries } from './Deliveries.tsx';
import { Files } from './Files.tsx';
import { HandOverFields } from './HandOverFields.tsx';
import { Warning } from './parts.ts';
import { refreshDeliveries, useExport } from './useExport.ts';
import { WholeJob } from './WholeJob.tsx';

const Pair = styled.div`
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 14px;
  figure {
    margin: 0;
  }
  img {
    width: 100%;
    max-height: 300px;
    object-fit: contain;
    display: block;
    background: #808080;
  }
  figcaption {
    font-size: 13px;
    color: ${theme.quiet};
    margin-top: 5px;
  }
`;
const Layout = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: 34px;
  align-items: start;
  > div {
    display: grid;
    gap: 26px;
  }
`;

/** What is not in the picture as it should be, and what can be done about that. */
function Missing({ state, exporting }: { state: PictureState; exporting: ReturnType<typeof useExport> }) {
  const { refusal, setRefusal, run } = exporting;
  const { document, statuses, picture } = state;
  const failed = new Set(statuses.filter((s) => s.state === 'failed').map((s) => s.id));
  if (!failed.size && !refusal) return null;
  const numbers = document.repairs
    .filter((r) => failed.has(r.id))
    .flatMap((r) => document.faults.filter((f) => r.faultIds.includes(f.id)).map((f) => f.number));
  const again = () => {
    setRefusal(null);
    call(PICTURES.renderAgain, { id: picture.id }).catch((e: Error) =>
      setRefusal({ format: null, message: e.message }),
    );
  };
  return (
    <Warning role="alert">
      <p>
        {refusal?.message ??
          `${plural(failed.size, 'repair')} could not be rendered${numbers.length ? `: fault ${numbers.join(', ')}` : ''}.`}
      </p>
      <div>
        <Button kind="main" onPress={again}>
          Render again
        </Button>
        {refusal?.format && (
          <Button onPress={() => void run(refusal.format!, 'leave')}>
            Export {EXPORTED[refusal.format].name} without
          </Button>
        )}
      </div>
    </Warning>
  );
}

/** Before and after, the files for hand-over, their records, and the client's letterbox. */
export default function DeliverPage() {
  const { pictureId = '' } = useParams();
  const { data, error } = usePicture(pictureId);
  const { data: jobs } = useJobs();
  const { data: deliveries } = useAnswer(EXPORTS.list, { id: pictureId });
  const exporting = useExport(pictureId);
  // Whenever something ends, a file may have left.
  const ended = useTasks().filter((t) => t.state !== 'running').length;
  useEffect(() => void refreshDeliveries(pictureId), [ended, pictureId]);
  const job = jobs?.find((j) => j.id === data?.picture.jobId);
  if (!data) return <Opening error={error} />;
  const { picture, document: doc, statuses, pixels } = data;
  const pending = statuses.filter((s) => s.state === 'working' || s.state === 'stale').length;
  const names = { id: pictureId };
  const last = deliveries?.reduce((most, d) => Math.max(most, d.version), 0) ?? 0;
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
          </div>
          <Missing state={data} exporting={exporting} />
          <Layout>
            <div>
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
              <Files depth={picture.facts.depth} pending={pending} exporting={exporting} />
              {job && <WholeJob job={job} />}
              <Deliveries list={deliveries} />
            </div>
            {job && <HandOverFields job={job} picture={picture} document={doc} version={Math.max(1, last)} />}
          </Layout>
        </Column>
      </main>
      <Notices />
    </Shell>
  );
}
