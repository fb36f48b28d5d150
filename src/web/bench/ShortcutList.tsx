import { Button } from '../ui/controls.tsx';
import { Dialog } from '../ui/dialog.tsx';
import styled from 'styled-components';
import { theme } from '../theme.ts';
import { COMMANDS } from './commands.ts';

const Table = styled.dl`
  display: grid;
  grid-template-columns: auto 1fr auto 1fr;
  gap: 4px 12px;
  overflow: auto;
  min-height: 0;
  max-height: calc(90vh - 150px);
  margin: 0;
  font-size: 13px;
  align-items: baseline;
  dt {
    display: flex;
    gap: 4px;
  }
  dd {
    margin: 0;
  }
  kbd {
    font: 500 12px ${theme.figures};
    border: 1px solid ${theme.ruleStrong};
    border-bottom-width: 2px;
    border-radius: 3px;
    padding: 0 6px;
    background: ${theme.paper};
  }
`;

/** Every key of the bench. */
export function ShortcutList({ isOpen, onClose }: { isOpen: boolean; onClose(): void }) {
  return (
    <Dialog title="Keys at the bench" isOpen={isOpen} onClose={onClose} wide>
      <Table>
        {Object.values(COMMANDS).map(({ keys, text }) => [
          <dt key={text}>
            {keys.map((k) => (
              <kbd key={k}>{k}</kbd>
            ))}
          </dt>,
          <dd key={`${text}t`}>{text}</dd>,
        ])}
      </Table>
      <div style={{ display: 'flex', justifyContent: 'end' }}>
        <Button onPress={onClose}>Close</Button>
      </div>
    </Dialog>
  );
}
