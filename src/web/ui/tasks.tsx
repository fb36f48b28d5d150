import { useEffect, useMemo, useRef, useState } from 'react';
import styled from 'styled-components';
import { useTasks } from '../lib/api.ts';
import { secondsLeft, type Seen } from '../lib/time-left.ts';
import { TASKS } from '../../contract/addresses.ts';
import { call } from '../lib/http.ts';
import { theme } from '../theme.ts';
import { Button } from './controls.tsx';

const Place = styled.div`
  flex: 1 1 0;
  min-width: 0;
  display: flex;
  align-items: center;
  justify-content: flex-end;
  gap: 8px;
  font-size: 13px;
  overflow: hidden;
  .what {
    min-width: 0;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .how {
    font-family: ${theme.figures};
    font-size: 12px;
    color: ${theme.quiet};
    white-space: nowrap;
  }
  progress {
    flex: none;
    width: 64px;
    height: 5px;
  }
  .short {
    display: none;
    white-space: nowrap;
  }
  @media (max-width: 1320px) {
    progress {
      display: none;
    }
  }
  @media (max-width: 1150px) {
    .what,
    progress,
    .how {
      display: none;
    }
    .short {
      display: inline;
    }
  }
`;

const words = (seconds: number) => (seconds < 90 ? `${Math.ceil(seconds)} s` : `${Math.round(seconds / 60)} min`);

/** What goes on, in one quiet place of the bar: the first of it with its time left, how much else there is, and how to stop it. */
export function TaskPlace({ pictureId }: { pictureId?: string }) {
  const tasks = useTasks();
  const running = useMemo(
    () => tasks.filter((t) => t.state === 'running' && (pictureId ? t.pictureId === pictureId : t.pictureId !== null)),
    [tasks, pictureId],
  );
  const seen = useRef(new Map<string, Seen>());
  const [left, setLeft] = useState<number | null>(null);
  const [task] = running;
  useEffect(() => {
    const now = performance.now();
    for (const { id, done } of running) if (!seen.current.has(id)) seen.current.set(id, { at: now, done });
    for (const id of seen.current.keys()) if (!running.some((t) => t.id === id)) seen.current.delete(id);
    setLeft(task ? secondsLeft(seen.current.get(task.id), task.done, now) : null);
  }, [running, task]);
  if (!task) return <Place role="status" aria-live="polite" />;
  return (
    <Place role="status" aria-live="polite">
      <span className="what" title={running.map((t) => t.label).join('\n')}>
        {task.label}
        {running.length > 1 && `, ${running.length - 1} more`}
      </span>
      <span className="short">{running.length} at work</span>
      <progress value={task.done} max={1} aria-label={task.label} />
      <span className="how">{left === null ? '' : `${words(left)} left`}</span>
      <Button kind="quiet" aria-label={`Stop: ${task.label}`} onPress={() => void call(TASKS.stop, { id: task.id })}>
        Stop
      </Button>
    </Place>
  );
}
