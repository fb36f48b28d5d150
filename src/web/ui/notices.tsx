import styled from 'styled-components';
import { dismissTask, useConnected, useTasks } from '../lib/api.ts';
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
`;

/** What failed, or has something to say when it is done, and whether the server answers; with a way to put each away. What goes on is in the bar. */
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
        .filter((t) => t.state === 'failed' || (t.state === 'done' && t.message))
        .map((task) => (
          <Notice key={task.id} $bad={task.state === 'failed'}>
            <span>
              {task.label}: {task.message}
            </span>
            <Button kind="quiet" onPress={() => dismissTask(task.id)}>
              Put away
            </Button>
          </Notice>
        ))}
    </Stack>
  );
}
