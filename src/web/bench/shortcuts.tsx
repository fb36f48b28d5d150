import { Dialog } from '../ui/dialog.tsx';
import styled from 'styled-components';
import { theme } from '../theme.ts';

const Table = styled.dl`
  display: grid;
  grid-template-columns: auto 1fr auto 1fr;
  gap: 6px 14px;
  margin: 0;
  font-size: 13.5px;
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

const KEYS: Array<[string[], string]> = [
  [['N', 'P'], 'next, previous open fault'],
  [['Enter'], 'accept and go on; finish a strand or corners; put down'],
  [['X'], 'leave the fault as it is'],
  [['1', '2'], 'look about, mark'],
  [['3'], 'fill, or three more tries'],
  [['4', '5'], 'copy, blend'],
  [['6', 'G'], 'trace a strand, complete the mesh'],
  [['7', '8'], 'patch, transplant'],
  [['9', '0'], 'shade, reveal'],
  [['D'], 'held + click: set the donor; tapped: at the pointer or the cross'],
  [['U', 'I'], 'paint a donor area, a barred area for a fill'],
  [['Q', 'W', 'E', 'R', 'T'], 'brush, outline, corners, box, strand'],
  [[',', '.'], 'smaller, larger'],
  [['A', 'S', 'Z'], 'new fault, add to it, take from it'],
  [['Space'], 'mark or dab at the cross in the middle; with Shift a straight run'],
  [['Arrows'], 'move the picture, or what floats; with Shift farther'],
  [['+', '−'], 'nearer, farther away'],
  [['Home', 'End'], 'whole picture, 100 %'],
  [['F'], 'go to the chosen fault'],
  [['B'], 'held: as it came'],
  [['V', 'C'], 'divider, difference'],
  [['M'], 'hide or show all markers'],
  [['[', ']'], 'weaker, stronger by 10 %'],
  [['H'], 'hide or show the repair'],
  [['Y'], 'next try'],
  [['Delete'], 'delete the repair, or remove the fault'],
  [['Ctrl Z', 'Ctrl ⇧ Z'], 'undo, redo'],
  [['Esc'], 'drop what is being drawn'],
  [['?'], 'this list'],
];

/** Every key of the bench. */
export function ShortcutList({ isOpen, onClose }: { isOpen: boolean; onClose(): void }) {
  return (
    <Dialog title="Keys at the bench" isOpen={isOpen} onClose={onClose} wide>
      <Table>
        {KEYS.map(([keys, text]) => [
          <dt key={text}>
            {keys.map((k) => (
              <kbd key={k}>{k}</kbd>
            ))}
          </dt>,
          <dd key={`${text}t`}>{text}</dd>,
        ])}
      </Table>
    </Dialog>
  );
}
