import { Link } from 'react-router';
import type { Repair } from '../../../contract/document.ts';
import { isStrip } from '../../../document/edits/repairs.ts';
import { toStage } from '../../lib/stages.ts';
import { wordsOf } from '../hand/words.ts';
import { useBench } from '../useBench.ts';

/** What a stretch or a strip did, and where it is set. */
export function StretchPart({ repair }: { repair: Repair }) {
  const strip = isStrip(repair);
  const what = strip ? 'Strip' : 'Stretch';
  const { state } = useBench();
  const status = state.statuses.find((s) => s.id === repair.id);
  const place = { jobId: state.picture.jobId, pictureId: state.picture.id };
  return (
    <>
      <h3>{what}</h3>
      <p className="reason" role="status">
        {wordsOf(status, repair) ?? 'Being made…'}
      </p>
      <p className="quiet">
        {strip
          ? 'Its height, profile and light are set on '
          : 'It is made for this canvas. Another format, or a fill instead, is chosen on '}
        <Link to={toStage('Frame', place)}>Frame</Link>.
      </p>
    </>
  );
}
