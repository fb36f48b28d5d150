import { Link, useParams } from 'react-router';
import styled from 'styled-components';
import type { PictureState } from '../../contract/api.ts';
import { resolutionInWords, sumInWords, wantedInWords } from '../../core/frame/words.ts';
import { useJobs, usePicture } from '../lib/api.ts';
import { useEdits, type Edits } from '../lib/edits.ts';
import { capital, count } from '../lib/format.ts';
import type { Viewing } from '../../core/frame/visibility.ts';
import { toStage } from '../lib/stages.ts';
import { useUndoKeys } from '../lib/useUndoKeys.ts';
import { viewingOf } from '../lib/viewing.ts';
import { theme } from '../theme.ts';
import { Button } from '../ui/controls.tsx';
import { Notices } from '../ui/notices.tsx';
import { Opening, Shell, StageBar } from '../ui/page.tsx';
import { UndoRedo } from '../ui/UndoRedo.tsx';
import { FrameSettings } from './FrameSettings.tsx';
import { FrameSheet } from './FrameSheet.tsx';
import { JoinedCuts } from './JoinedCuts.tsx';
import { FILL_AREA_NAMES } from './FillAreaSettings.tsx';
import { useFillAreas, type FillArea, type FillAreas } from './useFillAreas.ts';
import { AS_IT_IS, useFraming, USUAL_PPI, type Framed } from './useFraming.ts';
import { stripCorners } from './useStrip.ts';
import { WayCards } from './WayCards.tsx';

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
`;

/** What can be done about the ragged edges of a picture that was joined. */
function Ragged({ framed: { whole, between, cutRagged, cutBetween } }: { framed: Framed }) {
  if (!whole) return null;
  return (
    <>
      <p className="quiet" style={{ fontSize: 13 }}>
        Joined from frames, its edges are ragged. Fill them at the bench, cut them off, or some of each:
      </p>
      <Button onPress={() => void cutRagged()}>
        Cut to {count(whole.width)} × {count(whole.height)} px
      </Button>
      {between && (
        <Button onPress={() => void cutBetween()}>
          Cut to {count(between.width)} × {count(between.height)} px, fill{' '}
          {((100 * between.gaps) / (between.width * between.height)).toFixed(1)} %
        </Button>
      )}
    </>
  );
}

/** What is to be done while something is drawn. */
const DRAWS = {
  line: 'Draw along the horizon, a shore, a post: what should be level or upright.',
  subject: 'Draw a box around what the picture is about.',
  strip: 'Draw along the line between backdrop and floor: the strip stands on it.',
  keep: 'Draw a box over what is part of it.',
  leave: 'Draw a box over what is not part of it.',
  donor: 'Draw a box that the fill may take from.',
  barred: 'Draw a box that the fill must not take from.',
  guide: 'Draw along an edge, out to where it goes on.',
};

/** What the frame takes and what it has, in words. */
function sumOf(framed: Framed, viewing: Viewing): string {
  const { way, wanted, placement, proportion, format } = framed;
  const name = wanted
    ? `${count(wanted.width)} × ${count(wanted.height)} ${wanted.by === 'print' ? 'mm' : 'px'}`
    : (proportion?.name ?? (format === AS_IT_IS ? 'As it is' : 'Its own proportion'));
  const longSideMm = wanted?.by === 'print' ? Math.max(wanted.width, wanted.height) : viewing.longSideMm;
  const has = wanted ? wantedInWords(way.seen, wanted) : resolutionInWords(way.seen, longSideMm, USUAL_PPI);
  const sum = sumInWords(name, way.framing, {
    placement: framed.subject ? placement : { across: null, down: null },
    focus: framed.focus === 'head' ? 'The head' : 'The subject',
    delivery: longSideMm,
  });
  return `${sum} ${capital(has)}.`;
}

function Frame({ state, edits, areas }: { state: PictureState; edits: Edits; areas: FillAreas }) {
  const { data: jobs } = useJobs();
  const job = jobs?.find((j) => j.id === state.picture.jobId);
  const viewing = viewingOf(job);
  const framed = useFraming(state, edits, viewing, { areas, documentary: job?.policy === 'documentary' });
  const { way, isFramed, degrees, draws, marked } = framed;
  const place = { jobId: state.picture.jobId, pictureId: state.picture.id };
  return (
    <Columns>
      <div className="settings">
        <FrameSettings framed={framed} />
        <section style={{ padding: '12px 14px', display: 'grid', gap: 8, justifyItems: 'start' }}>
          <Ragged framed={framed} />
          {state.picture.joined && <JoinedCuts id={state.picture.id} joined={state.picture.joined} />}
          {isFramed && <Button onPress={framed.back}>Back to as it came</Button>}
          <Link to={toStage('Check', place)}>Check</Link>
        </section>
      </div>
      <div className="sheet">
        <p className="sum" role="status">
          {draws ? DRAWS[draws] : sumOf(framed, viewing)}
        </p>
        <FrameSheet
          state={state}
          way={way}
          degrees={draws ? 0 : degrees}
          looked={draws || framed.stands ? undefined : framed.lookAt(way)}
          subject={framed.subject}
          marked={marked.asks ? (marked.found ?? []) : marked.shapes}
          areas={areas}
          strip={framed.strip.isChanged && framed.strip.drawn ? stripCorners(framed.strip.drawn) : undefined}
          lines={framed.lines}
          draws={draws}
          onDrawn={framed.onDrawn}
        />
        <WayCards state={state} framed={framed} viewing={viewing} />
      </div>
    </Columns>
  );
}

/** What undo says of something drawn. */
const stepOf = (area: FillArea | null) => area && `${FILL_AREA_NAMES[area]} drawn`;

/** Format, subject, level: every way to get there with what it costs. */
export default function FramePage() {
  const { pictureId = '' } = useParams();
  const { data: state, error } = usePicture(pictureId);
  const edits = useEdits(pictureId);
  const areas = useFillAreas();
  const step = async (which: 'undo' | 'redo') => {
    if (!areas.step(which)) await edits.step(which);
  };
  useUndoKeys(step);
  if (!state) return <Opening error={error} />;
  return (
    <Shell>
      <StageBar place={{ jobId: state.picture.jobId, pictureId }}>
        <span className="title">{state.picture.name}</span>
        <UndoRedo
          steps={{ undo: stepOf(areas.last) ?? state.undo, redo: stepOf(areas.next) ?? state.redo }}
          step={step}
        />
      </StageBar>
      <main style={{ overflow: 'hidden' }}>
        <Frame key={pictureId} state={state} edits={edits} areas={areas} />
      </main>
      <Notices />
    </Shell>
  );
}
