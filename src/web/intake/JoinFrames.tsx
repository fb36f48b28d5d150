import { useState } from 'react';
import styled from 'styled-components';
import { JOBS } from '../../contract/addresses.ts';
import { MOST_FRAMES, type Job, type JoinRequest } from '../../contract/studio.ts';
import type { FrameMarks } from '../../core/join/lay.ts';
import { useTasks } from '../lib/api.ts';
import { call } from '../lib/http.ts';
import { plural } from '../lib/format.ts';
import { theme } from '../theme.ts';
import { Button, Check, Strip, Toggle } from '../ui/controls.tsx';
import { FrameParts } from './FrameParts.tsx';
import { TaskLine } from '../ui/task-line.tsx';

const Place = styled.section`
  border: 1px solid ${theme.rule};
  padding: 12px 14px;
  display: grid;
  gap: 10px;
  font-size: 13px;
  h2 {
    font-size: 14px;
    margin: 0;
  }
  .frames {
    display: flex;
    flex-wrap: wrap;
    gap: 6px 18px;
  }
  .how {
    display: flex;
    flex-wrap: wrap;
    gap: 10px;
    align-items: center;
  }
`;

const PROJECTIONS: ReadonlyArray<[JoinRequest['projection'], string]> = [
  ['auto', 'As suits best'],
  ['flat', 'Flat'],
  ['cylinder', 'On a cylinder'],
];

const NONE: FrameMarks = { keep: [], leave: [] };
const isMarked = (m: FrameMarks | undefined): m is FrameMarks => !!m && m.keep.length + m.leave.length > 0;

/** How many parts are marked, in words. */
const partsInWords = (m: FrameMarks | undefined): string => (isMarked(m) ? ` (${m.keep.length + m.leave.length})` : '');

/** What is wished of frames, where anything is. */
const wishes = (marks: ReadonlyArray<FrameMarks | undefined>): Pick<JoinRequest, 'marks'> =>
  marks.some(isMarked) ? { marks: marks.map((m) => (isMarked(m) ? m : null)) } : {};

/** Pictures of a job that were taken from one place, joined to a wider one. */
export function JoinFrames({ job }: { job: Job }) {
  const frames = job.pictures.filter((p) => !p.joined);
  const [open, setOpen] = useState(false);
  const [out, setOut] = useState<ReadonlySet<string>>(new Set());
  const [marks, setMarks] = useState<Record<string, FrameMarks>>({});
  const [marked, setMarked] = useState<string | null>(null);
  const [projection, setProjection] = useState<JoinRequest['projection']>('auto');
  const [taskId, setTaskId] = useState<string | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const task = useTasks().find((t) => t.id === taskId);
  const chosen = frames.filter((p) => !out.has(p.id));
  if (frames.length < 2) return null;
  const join = async () => {
    setProblem(null);
    try {
      const { taskId: begun } = await call(
        JOBS.join,
        { id: job.id },
        { body: { pictureIds: chosen.map((p) => p.id), projection, ...wishes(chosen.map((p) => marks[p.id])) } },
      );
      setTaskId(begun);
      setOpen(false);
    } catch (e) {
      setProblem((e as Error).message);
    }
  };
  const running = task?.state === 'running' || (taskId !== null && !task);
  const unfit =
    chosen.length < 2
      ? 'Choose at least two.'
      : chosen.length > MOST_FRAMES
        ? `At most ${MOST_FRAMES} at once.`
        : undefined;
  return (
    <>
      {!open && (
        <div style={{ display: 'flex', flexWrap: 'wrap', gap: 12, alignItems: 'center' }}>
          <Button isDisabled={running} onPress={() => setOpen(true)}>
            Join frames…
          </Button>
          {task ? (
            <TaskLine task={task} />
          ) : (
            <span className="quiet" style={{ fontSize: 13 }}>
              taken from one place, to one wider picture
            </span>
          )}
        </div>
      )}
      {open && (
        <Place aria-label="Join frames">
          <h2>Which belong together?</h2>
          <p className="quiet">
            Taken from one place, each overlapping the next by about a third. Their order is found; the files stay as
            they are.
          </p>
          <div className="frames">
            {frames.map((p) => (
              <Check
                key={p.id}
                isSelected={!out.has(p.id)}
                onChange={(on) =>
                  setOut((before) => {
                    const next = new Set(before);
                    if (on) next.delete(p.id);
                    else next.add(p.id);
                    return next;
                  })
                }
              >
                {p.name}
              </Check>
            ))}
          </div>
          <p className="quiet">
            Each gives what it shows best by itself. Where one is to give a certain part, such as the subject before a
            clean backdrop, mark it:
          </p>
          <div className="frames">
            {chosen.map((p) => (
              <Toggle key={p.id} isSelected={marked === p.id} onChange={(on) => setMarked(on ? p.id : null)}>
                Parts of {p.name}
                {partsInWords(marks[p.id])}
              </Toggle>
            ))}
          </div>
          {chosen
            .filter((p) => p.id === marked)
            .map((p) => (
              <FrameParts
                key={p.id}
                picture={p}
                marks={marks[p.id] ?? NONE}
                onChange={(next) => setMarks((before) => ({ ...before, [p.id]: next }))}
              />
            ))}
          <div className="how">
            <Strip
              aria-label="How they are laid"
              selectionMode="single"
              disallowEmptySelection
              selectedKeys={[projection]}
              onSelectionChange={(keys) => setProjection([...keys][0] as JoinRequest['projection'])}
            >
              {PROJECTIONS.map(([id, name]) => (
                <Toggle key={id} id={id}>
                  {name}
                </Toggle>
              ))}
            </Strip>
            <Button kind="main" isDisabled={unfit !== undefined} onPress={() => void join()}>
              Join {plural(chosen.length, 'frame')}
            </Button>
            <Button kind="quiet" onPress={() => setOpen(false)}>
              Not now
            </Button>
            {unfit && <span className="quiet">{unfit}</span>}
          </div>
          {problem && <p role="alert">{problem}</p>}
        </Place>
      )}
    </>
  );
}
