import styled from 'styled-components';
import { theme } from '../theme.ts';
import { Button, Select } from '../ui/controls.tsx';
import { StageBar } from '../ui/page.tsx';
import { UndoRedo } from '../ui/UndoRedo.tsx';
import { Neighbours } from './Neighbours.tsx';
import { useBench } from './useBench.ts';

const Saved = styled.span<{ $failed: boolean }>`
  color: ${({ $failed }) => ($failed ? theme.bad : theme.quiet)};
  min-width: 60px;
  text-align: right;
`;

/** The picture's name, how near it is looked at, how saving stands, undo and redo. */
export function BenchBar() {
  const { state, job, pictureId, navigation, faults, fault, edits, steps, step, showHelp } = useBench();
  const { view, handle, zoomTo } = navigation;
  const saved = {
    saved: 'Saved',
    saving: 'Saving…',
    failed: `${edits.waiting} not saved yet, trying again`,
  }[edits.state];
  return (
    <StageBar place={{ jobId: state.picture.jobId, pictureId }}>
      <Neighbours job={job} pictureId={pictureId} />
      <span className="title">{state.picture.name}</span>
      <Select
        aria-label="Zoom"
        value=""
        style={{ width: 74 }}
        onChange={(e) =>
          e.target.value === 'fit'
            ? handle.current?.fit()
            : zoomTo(Number(e.target.value), faults.length === 1 ? fault : undefined)
        }
      >
        <option value="" disabled>
          {view ? `${Math.round(view.scale * 100)} %` : 'Zoom'}
        </option>
        <option value="fit">whole</option>
        {[0.5, 1, 2, 4, 8, 16].map((z) => (
          <option key={z} value={z}>
            {z * 100} %
          </option>
        ))}
      </Select>
      <Saved $failed={edits.state === 'failed'} role="status">
        {saved}
      </Saved>
      <UndoRedo steps={steps} step={step} />
      <Button kind="quiet" aria-label="Keys at the bench" onPress={() => showHelp(true)}>
        ?
      </Button>
    </StageBar>
  );
}
