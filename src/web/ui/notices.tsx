import styled from 'styled-components';
import { dismissTask, useConnected, useTasks } from '../lib/api.ts';
import { send } from '../lib/http.ts';
import { theme } from '../theme.ts';
import { Button } from './controls.tsx';

const Stack = styled.div`
  position: fixed;
  right: 12px;
  bottom: 14px;
  z-index: 40;
  display: grid;
  gap: 8px;
  width: 240px;
`;
export const Notice = styled.div<{ $bad?: boolean }>`
  background: ${({ $bad }) => ($bad ? theme.amberTint : theme.sheet)};
  border: 1px solid ${({ $bad }) => ($bad ? theme.amber : theme.ruleStrong)};
  border-radius: 4px;
  padding: 9px 12px;
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 6px 10px;
  align-items: center;
  font-size: 13px;
  progress {
    grid-column: 1 / -1;
    width: 100%;
    height: 5px;
  }
`;

/** Work in progress, what failed, and whether the server answers; with a way to stop or put away each. */
export function Notices({
  refusal,
  onDismiss,
  ofPictures = false,
  pictureId,
}: {
  refusal?: string | null;
  onDismiss?(): void;
  /** only what concerns a picture: the page itself shows the rest */
  ofPictures?: boolean;
  /** only what concerns this picture */
  pictureId?: string;
}) {
  const tasks = useTasks().filter((t) => (pictureId ? t.pictureId === pictureId : !ofPictures || t.pictureId !== null));
  const connected = useConnected();
  return (
    <Stack role="status" aria-live="polite">
      {!connected && <Notice $bad>The server cannot be reached. Trying again…</Notice>}
      {refusal && (
        <Notice $bad>
          <span>{refusal}</span>
          <Button kind="quiet" onPress={onDismiss}>
            Put away
          </Button>
        </Notice>
      )}
      {tasks
        .filter((t) => t.state === 'running' || t.state === 'failed')
        .map((task) =>
          task.state === 'failed' ? (
            <Notice key={task.id} $bad>
              <span>
                {task.label}: {task.message}
              </span>
              <Button kind="quiet" onPress={() => dismissTask(task.id)}>
                Put away
              </Button>
            </Notice>
          ) : (
            <Notice key={task.id}>
              <span>{task.label}</span>
              <Button
                kind="quiet"
                aria-label={`Stop: ${task.label}`}
                onPress={() => void send('DELETE', `/api/tasks/${task.id}`)}
              >
                Stop
              </Button>
              <progress value={task.done} max={1} aria-label={task.label} />
            </Notice>
          ),
        )}
    </Stack>
  );
}
