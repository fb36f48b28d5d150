import { Link, useParams } from 'react-router';
import styled from 'styled-components';
import type { PictureState } from '../../contract/api.ts';
import type { SubjectPlace } from '../../core/frame/format.ts';
import { resolutionInWords, sumInWords, wantedInWords } from '../../core/frame/words.ts';
import { boxOf, type Box } from '../../core/raster/raster.ts';
import { verdictOf } from '../../core/check/words.ts';
import type { StretchWay } from '../../core/repair/spec.ts';
import { amountsInWords, SHOWS } from '../../core/repair/stretch/amounts.ts';
import { useJobs, usePicture } from '../lib/api.ts';
import { useEdits } from '../lib/edits.ts';
import type { Viewing } from '../../core/frame/visibility.ts';
import { findingsOfTry } from '../lib/findings.ts';
import { count, plural } from '../lib/format.ts';
import { toStage } from '../lib/stages.ts';
import { viewingOf } from '../lib/viewing.ts';
import { theme } from '../theme.ts';
import { Button } from '../ui/controls.tsx';
import { Notices } from '../ui/notices.tsx';
import { Opening, Shell, StageBar } from '../ui/page.tsx';
import { FrameSettings } from './FrameSettings.tsx';
import { FrameSheet } from './FrameSheet.tsx';
import { AS_IT_IS, useFraming, USUAL_PPI, type Framed } from './useFraming.ts';
import { amountsOfWay, firstToClean, type Way } from './ways.ts';

const Columns = styled.div`
  display: grid;
  grid-template-columns: 300px minmax(0, 1fr);
  height: 100%;
  min-height: 0;
  .settings {
    border-right: 1px solid ${theme.rule};
    background: ${theme.sheet};
    overflow: auto;
  }
  .sheet {
    display: grid;
    grid-template-rows: 44px minmax(0, 1fr) auto;
    min-height: 0;
  }
  .sum {
    display: flex;
    align-items: center;
    padding: 0 14px;
    background: ${theme.sheet};
    border-bottom: 1px solid ${theme.rule};
    font-size: 13px;
    overflow: hidden;
  }
  .ways {
    display: grid;
    grid-template-columns: repeat(3, minmax(0, 1fr));
    gap: 10px;
    padding: 10px 14px;
    background: ${theme.paper};
    border-top: 1px solid ${theme.rule};
  }
`;

const WayCard = styled.article`
  display: grid;
  grid-template-columns: 108px minmax(0, 1fr);
  gap: 2px 12px;
  border: 1px solid ${theme.rule};
  background: ${theme.sheet};
  padding: 8px;
  min-height: 112px;
  &[data-taken='true'] {
    border-color: ${theme.accent};
    box-shadow: inset 0 0 0 1px ${theme.accent};
  }
  .view {
    height: 94px;
  }
  .words {
    display: grid;
    gap: 2px;
    align-content: start;
    font-size: 12.5px;
  }
  h3 {
    display: flex;
    gap: 8px;
    align-items: baseline;
  }
  h3 small {
    color: ${theme.accentDark};
    font-weight: 500;
  }
  .does {
    margin-top: 3px;
  }
`;

const NAMES = { crop: 'Crop', extend: 'Fill the sides', stretch: 'Stretch the background' } as const;
const percent = (share: number) => `${(100 * share).toFixed(share < 0.1 ? 1 : 0)} %`;

/** How far the background is drawn out, and whether that will be seen. */
function drawnOutInWords(way: Way, source: Pick<Box, 'width' | 'height'>, subject: SubjectPlace | null): string[] {
  const amounts = way.framing.added > 0.001 ? amountsOfWay(way, source, subject) : [];
  if (!amounts.length) return ['nothing to draw out'];
  const most = Math.max(...amounts.map((a) => a.times));
  return [
    amountsInWords(amounts),
    ...(subject ? [] : ['the subject too: draw around it to keep it']),
    ...(Number.isFinite(most) && most > SHOWS ? [`past ${SHOWS} times it shows`] : []),
  ];
}

/** What a way costs, in figures. */
function costsOf(state: PictureState, asked: Way, subject: SubjectPlace | null): string[] {
  const { way, framing, seen } = asked;
  const size = `${count(seen.width)} × ${count(seen.height)} px`;
  if (way === 'crop')
    return [
      size,
      framing.lost > 0.001 ? `${percent(framing.lost)} of the picture is lost` : 'nothing is lost',
      ...(framing.cut > 0 ? ['cuts into the subject'] : []),
    ];
  if (way === 'stretch') {
    const open = state.document.faults.filter((f) => f.state === 'open' && f.kind !== 'gap').length;
    return [
      size,
      ...drawnOutInWords(asked, state.picture.facts, subject),
      ...(open && framing.added > 0.001
        ? [`clean ${plural(open, 'open fault')} first, or they are drawn out too`]
        : []),
    ];
  }
  const added = framing.added > 0.001 ? `${percent(framing.added)} of it has to be filled` : 'nothing to fill';
  const clean = firstToClean(state.document.faults, state.picture.facts, {
    way,
    framing,
    seen,
    set: { canvas: seen, turn: null },
  });
  return [
    size,
    added,
    ...(clean.length ? [`clean ${plural(clean.length, 'open fault')} beside it first, or they are filled from`] : []),
  ];
}

/** What Check says of what was made of the gaps. */
function checkedInWords(state: PictureState, viewing: Viewing): string {
  const { faults, repairs } = state.document;
  const gaps = new Set(faults.filter((f) => f.kind === 'gap').map((f) => f.id));
  const own = repairs.filter((r) => r.faultIds.some((id) => gaps.has(id)));
  const found = own.map((r) => {
    const status = state.statuses.find((s) => s.id === r.id);
    return status?.state === 'shown' ? findingsOfTry(status, r.chosen, state, viewing) : undefined;
  });
  if (!own.length) return '';
  if (found.some((f) => f === undefined)) return 'Being made and checked.';
  const verdict = verdictOf(found.flatMap((f) => f!).sort((a, b) => b.severity - a.severity));
  return verdict ? `Check: ${verdict}.` : 'Check finds nothing that would be seen.';
}

function Card(props: { state: PictureState; framed: Framed; way: Way; viewing: Viewing }) {
  const { state, framed, way, viewing } = props;
  const isTaken = framed.way.way === way.way;
  const isProposed = framed.proposal.way.way === way.way;
  return (
    <WayCard data-taken={isTaken} aria-label={NAMES[way.way]}>
      <div className="view">
        <FrameSheet small state={state} way={way} degrees={framed.degrees} subject={framed.subject} />
      </div>
      <div className="words">
        <h3>
          {NAMES[way.way]} {isProposed && <small>proposed</small>}
        </h3>
        <span className="quiet">{costsOf(state, way, framed.subject).join(' · ')}</span>
        {isProposed && <span>{framed.proposal.reason}</span>}
        {isTaken && way.way === 'stretch' && way.set.canvas && (
          <label>
            Drawn out{' '}
            <select value={framed.by} onChange={(e) => framed.setBy(e.target.value as StretchWay)}>
              <option value="smooth">smoothly</option>
              <option value="seams">by inserted seams</option>
            </select>
          </label>
        )}
        <div className="does">
          {isTaken && framed.stands ? (
            <span className="quiet">It stands like this. {way.way !== 'crop' && checkedInWords(state, viewing)}</span>
          ) : isTaken ? (
            <Button kind="main" onPress={() => void framed.take()}>
              {way.way === 'crop'
                ? 'Cut to this'
                : !way.set.canvas
                  ? 'Take this'
                  : way.way === 'extend'
                    ? 'Add and fill'
                    : 'Stretch to this'}
            </Button>
          ) : (
            <Button onPress={() => framed.setTaken(way.way)}>Look at it</Button>
          )}
        </div>
      </div>
    </WayCard>
  );
}

function Frame({ state }: { state: PictureState }) {
  const edits = useEdits(state.picture.id);
  const framed = useFraming(state, edits);
  const { data: jobs } = useJobs();
  const viewing = viewingOf(jobs?.find((j) => j.id === state.picture.jobId));
  const { way, wanted, placement, proportion, format, isFramed, degrees, draws } = framed;
  const name = wanted
    ? `${count(wanted.width)} × ${count(wanted.height)} ${wanted.by === 'print' ? 'mm' : 'px'}`
    : (proportion?.name ?? (format === AS_IT_IS ? 'As it is' : 'Its own proportion'));
  const longSideMm = wanted?.by === 'print' ? Math.max(wanted.width, wanted.height) : viewing.longSideMm;
  const has = wanted ? wantedInWords(way.seen, wanted) : resolutionInWords(way.seen, longSideMm, USUAL_PPI);
  const place = { jobId: state.picture.jobId, pictureId: state.picture.id };
  const sum = sumInWords(name, boxOf(framed.facts), way.framing, {
    placement: framed.subject ? placement : { across: null, down: null },
    focus: framed.focus === 'head' ? 'the head' : 'the subject',
    delivery: longSideMm,
  });
  return (
    <Columns>
      <div className="settings">
        <FrameSettings framed={framed} />
        <section style={{ padding: '12px 14px', display: 'grid', gap: 8, justifyItems: 'start' }}>
          {framed.whole && (
            <>
              <p className="quiet" style={{ fontSize: 13 }}>
                Joined from frames, its edges are ragged. Fill them at the bench, or cut them off:
              </p>
              <Button onPress={() => void framed.cutRagged()}>
                Cut to {count(framed.whole.width)} × {count(framed.whole.height)} px
              </Button>
            </>
          )}
          {isFramed && <Button onPress={framed.back}>Back to as it came</Button>}
          <Link to={toStage('Check', place)}>Check</Link>
        </section>
      </div>
      <div className="sheet">
        <p className="sum" role="status">
          {draws === 'line'
            ? 'Draw along the horizon, a shore, a post: what should be level or upright.'
            : draws === 'subject'
              ? 'Draw a box around what the picture is about.'
              : `${sum}. ${has}.`}
        </p>
        <FrameSheet
          state={state}
          way={way}
          degrees={draws ? 0 : degrees}
          subject={framed.subject}
          draws={draws}
          onDrawn={framed.onDrawn}
        />
        <div className="ways">
          <Card state={state} framed={framed} way={framed.ways.crop} viewing={viewing} />
          <Card state={state} framed={framed} way={framed.ways.extend} viewing={viewing} />
          <Card state={state} framed={framed} way={framed.ways.stretch} viewing={viewing} />
        </div>
      </div>
    </Columns>
  );
}

/** Format, subject, level: every way to get there with what it costs. */
export default function FramePage() {
  const { pictureId = '' } = useParams();
  const { data: state, error } = usePicture(pictureId);
  if (!state) return <Opening error={error} />;
  return (
    <Shell>
      <StageBar place={{ jobId: state.picture.jobId, pictureId }}>
        <span className="title">{state.picture.name}</span>
      </StageBar>
      <main style={{ overflow: 'hidden' }}>
        <Frame key={pictureId} state={state} />
      </main>
      <Notices />
    </Shell>
  );
}
