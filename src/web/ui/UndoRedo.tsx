import { Redo2, Undo2 } from 'lucide-react';
import type { PictureState } from '../../contract/api.ts';
import { Button } from './controls.tsx';

type Direction = 'undo' | 'redo';

const KINDS = [
  { direction: 'undo', name: 'Undo', Icon: Undo2 },
  { direction: 'redo', name: 'Redo', Icon: Redo2 },
] as const;

/** Takes the last edit of a picture back, and brings it again. */
export function UndoRedo({ state, step }: { state: PictureState; step: (direction: Direction) => unknown }) {
  return KINDS.map(({ direction, name, Icon }) => (
    <Button
      key={direction}
      kind="quiet"
      aria-label={state[direction] ? `${name}: ${state[direction]}` : `Nothing to ${direction}`}
      isDisabled={!state[direction]}
      onPress={() => void step(direction)}
    >
      <Icon size={16} aria-hidden /> {name}
    </Button>
  ));
}
