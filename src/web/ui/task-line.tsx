import styled from 'styled-components';
import { TASKS } from '../../contract/addresses.ts';
import type { Task } from '../lib/api.ts';
import { call } from '../lib/http.ts';
import { Button } from './controls.tsx';

const Place = styled.div`
  display: flex;
  gap: 12px;
  align-items: center;
  font-size: 13px;
  progress {
    width: 160px;
    height: 6px;
  }
`;

/** One task where it was begun: how far it is, how to stop it, how it ended. */
export function TaskLine({ task }: { task: Task }) {
  if (task.state === 'running')
    return (
      <Place role="status">
        <span>{task.label}</span>
        <progress max={1} value={task.done} aria-label={task.label} />
        <Button kind="quiet" onPress={() => void call(TASKS.stop, { id: task.id })}>
          Stop
        </Button>
      </Place>
    );
  if (task.state === 'failed') return <Place role="alert">{task.message}</Place>;
  return <Place role="status">{task.state === 'done' ? task.message : 'Stopped.'}</Place>;
}
