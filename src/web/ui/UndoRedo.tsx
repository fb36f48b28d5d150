import { Redo2, Undo2 } from 'lucide-react';
import { Button } from './controls.tsx';

type Direction = 'undo' | 'redo';

const KINDS = [
  { direction: 'undo', name: 'Undo', Icon: Undo2 },
  { direction: 'redo', name: 'Redo', Icon: Redo2 },
] as const;

/** Takes the last step back, and brings it again; each says which step that is. */
export function UndoRedo({
  steps,
  step,
}: {
  steps: Record<Direction, string | null>;
  step: (direction: Direction) => unknown;
}) {
  return KINDS.map(({ direction, name, Icon }) => (
    <span key={direction} title={steps[direction] ? `${name}: ${steps[direction]}` : undefined}>
      <Button
        kind="quiet"
        aria-label={steps[direction] ? `${name}: ${steps[direction]}` : `Nothing to ${direction}`}
        isDisabled={!steps[direction]}
        onPress={() => void step(direction)}
      >
        <Icon size={16} aria-hidden /> {name}
      </Button>
    </span>
  ));
}
