import { Link } from 'react-router';
import type { Repair } from '../../../contract/document.ts';
import { toStage } from '../../lib/stages.ts';
import { wordsOf } from '../hand/words.ts';
import { useBench } from '../useBench.ts';

/** Whether a repair draws the background out. */
export const isStretch = (repair: Repair): boolean =>
  repair.tries.find((t) => t.id === repair.chosen)?.spec.method === 'stretch';

/** How far a stretch draws the background out, and where it is set. */
export function StretchPart({ repair }: { repair: Repair }) {
  const isStrip = repair.tries.find((t) => t.id === repair.chosen)?.spec.method === 'strip';
  const what = isStrip ? 'Strip' : 'Stretch';
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
        {isStrip
          ? 'Its height, profile and light are set on '
          : 'It is made for this canvas. Another format, or a fill instead, is chosen on '}
        <Link to={toStage('Frame', place)}>Frame</Link>.
      </p>
    </>
  );
}
