import { useParams } from 'react-router';
import { Notices } from '../ui/notices.tsx';
import { Opening, Shell, StageBar } from '../ui/page.tsx';
import { Finds } from './Finds.tsx';
import { Groups } from './Groups.tsx';
import { Place } from './Place.tsx';
import { SurveyColumns } from './SurveyColumns.tsx';
import { useSurveying } from './useSurveying.ts';

/** Survey: what was found, by kind, at a glance; what is no fault is rejected, the rest goes into the worklist. */
export default function SurveyPage() {
  const { pictureId = '' } = useParams();
  const surveying = useSurveying(pictureId);
  const { state, error, refusal, setRefusal } = surveying;
  if (!state) return <Opening error={error} />;
  return (
    <Shell>
      <StageBar place={{ jobId: state.picture.jobId, pictureId }}>
        <span className="title">{state.picture.name}</span>
      </StageBar>
      <main style={{ overflow: 'hidden' }}>
        <h1 className="visually-hidden">Survey: {state.picture.name}</h1>
        <SurveyColumns>
          <Groups surveying={surveying} />
          <Finds surveying={surveying} pictureId={pictureId} />
          <Place surveying={surveying} />
        </SurveyColumns>
      </main>
      <Notices pictureId={pictureId} refusal={refusal} onDismiss={() => setRefusal(null)} />
    </Shell>
  );
}
