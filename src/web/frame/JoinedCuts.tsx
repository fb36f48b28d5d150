import { useState } from 'react';
import { PICTURES } from '../../contract/addresses.ts';
import type { JoinedFrom } from '../../contract/studio.ts';
import { useTasks } from '../lib/api.ts';
import { call } from '../lib/http.ts';
import { count } from '../lib/format.ts';
import { Button } from '../ui/controls.tsx';
import { TaskLine } from '../ui/task-line.tsx';

/** Places where a join runs through what moved, and the frames that show all of it: joined again, it is taken from one of them. */
export function JoinedCuts({ id, joined }: { id: string; joined: JoinedFrom }) {
  const [taskId, setTaskId] = useState<string | null>(null);
  const [said, setSaid] = useState<string | null>(null);
  const task = useTasks().find((t) => t.id === taskId);
  const { cuts } = joined.account;
  if (!cuts.length) return null;
  const again = async (frame: number, keep: { x: number; y: number; width: number; height: number }) => {
    setSaid(null);
    try {
      setTaskId((await call(PICTURES.joinAgain, { id }, { body: { frame, keep } })).taskId);
      setSaid('It becomes a picture of its own, beside this one.');
    } catch (error) {
      setSaid((error as Error).message);
    }
  };
  return (
    <div style={{ display: 'grid', gap: 8, fontSize: 13 }}>
      {cuts.map(({ x, y, frames, places }) => (
        <div key={`${x} ${y}`} style={{ display: 'grid', gap: 6 }}>
          <p className="quiet">
            At {count(x)}, {count(y)} a join runs through what moved.{' '}
            {places?.some(Boolean)
              ? 'Take all of it from'
              : 'No frame shows all of it: mark it as a fault and repair it, or cut the picture to leave it out.'}
          </p>
          <div style={{ display: 'flex', gap: 6, flexWrap: 'wrap' }}>
            {frames.map((frame, k) => {
              const place = places?.[k];
              return (
                place && (
                  <Button
                    key={frame}
                    isDisabled={task?.state === 'running'}
                    onPress={() => void again(frame, place)}
                    aria-label={`Take what moved at ${x}, ${y} from ${joined.frames[frame].name}`}
                  >
                    {joined.frames[frame].name}
                  </Button>
                )
              );
            })}
          </div>
        </div>
      ))}
      {task?.state === 'running' && <TaskLine task={task} />}
      {said && <p role="status">{said}</p>}
    </div>
  );
}
