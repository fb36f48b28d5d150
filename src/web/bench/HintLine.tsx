import type { PointerEvent } from 'react';
import styled from 'styled-components';
import { dismissTask, useConnected, useTasks } from '../lib/api.ts';
import { theme } from '../theme.ts';
import { Button } from '../ui/controls.tsx';
import { hintOf } from './hand/hints.ts';
import { isArea, type Mode } from './store.ts';
import { useBench, type Bench } from './useBench.ts';
import { ValuesHere } from './ValuesHere.tsx';

const Line = styled.div<{ $warns: boolean }>`
  /* Two lines of a notice fit. */
  height: 34px;
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 0 10px;
  border-top: 1px solid ${theme.rule};
  background: ${({ $warns }) => ($warns ? theme.amberTint : theme.paper)};
  font-size: 12.5px;
  line-height: 15px;
  p {
    flex: 1;
    min-width: 0;
    color: ${({ $warns }) => ($warns ? '#7a4300' : theme.quiet)};
    font-weight: ${({ $warns }) => ($warns ? 600 : 400)};
    display: -webkit-box;
    -webkit-box-orient: vertical;
    -webkit-line-clamp: 2;
    overflow: hidden;
  }
  button {
    min-height: 20px;
    padding: 0 7px;
  }
  @media (max-width: 1150px) {
    font-size: 12px;
  }
`;

const MARKING: Partial<Record<Mode, string>> = {
  look: 'Click a fault to choose it. Drag to move, turn the wheel to come nearer.',
  trace: 'Click one end of a strand, then the other; hold Shift for points between.',
  donor: 'Draw where the next fill may take from: from nowhere else.',
  barred: 'Draw where the next fill must not take from.',
  edges: 'Click along an edge that runs on inside the cover, then Finish.',
  grounds: 'Paint from a ground into the cover: it reaches that far.',
};
const SHAPED: Record<string, string> = {
  brush: 'Paint over what should go; a click marks a speck.',
  outline: 'Draw around what should go.',
  corners: 'Click its corners, then Finish.',
  box: 'Drag a box over it.',
  strand: 'Click along it, then Finish.',
};

function wordsFor({ mode, shape, hand, state, advice }: Bench): string {
  const byHand = hintOf(hand, state);
  if (byHand) return byHand;
  if (advice && mode === 'look') return advice;
  if (isArea(mode) || mode !== 'mark') return MARKING[mode] ?? '';
  return SHAPED[shape];
}

/** One line beneath the picture: what to do with the verb in hand, what is wrong, what was refused. */
export function HintLine() {
  const bench = useBench();
  const { hand, edits, pictureId } = bench;
  const connected = useConnected();
  const own = useTasks().filter((t) => t.pictureId === pictureId);
  const failed = own.find((t) => t.state === 'failed');
  const done = own.find((t) => t.state === 'done' && t.message);
  const said = !connected
    ? { text: 'The server cannot be reached. Trying again…' }
    : edits.refusal
      ? { text: edits.refusal, away: edits.dismiss }
      : failed
        ? { text: `${failed.label}: ${failed.message}`, away: () => dismissTask(failed.id) }
        : hand.message
          ? { text: hand.message }
          : done
            ? { text: done.message!, away: () => dismissTask(done.id) }
            : null;
  return (
    <Line $warns={said !== null}>
      <p role="status" title={said?.text}>
        {said?.text ?? wordsFor(bench)}
      </p>
      {said?.away && (
        <Button kind="quiet" onPress={said.away}>
          Put away
        </Button>
      )}
      <ValuesHere />
      <ForOtherHand />
    </Line>
  );
}

const Held = styled.div`
  display: none;
  gap: 6px;
  @media (any-pointer: coarse) {
    display: flex;
  }
  button {
    border: 1px solid ${theme.ruleStrong};
    border-radius: 3px;
    background: ${theme.sheet};
    min-width: 62px;
    touch-action: none;
    user-select: none;
  }
  button[aria-pressed='true'] {
    background: ${theme.accentTint};
    border-color: ${theme.accent};
  }
`;

/** What is held with the other hand while a pen or a finger works, where there is no keyboard to do it with. */
function ForOtherHand() {
  const { mode, donorHeld, holdDonor, held, hold, steps, step } = useBench();
  const holding = (set: (on: boolean) => void) => ({
    onPointerDown: (e: PointerEvent<HTMLButtonElement>) => {
      e.currentTarget.setPointerCapture(e.pointerId);
      set(true);
    },
    onPointerUp: () => set(false),
    onPointerCancel: () => set(false),
  });
  return (
    <Held role="group" aria-label="Held with the other hand">
      {(mode === 'copy' || mode === 'blend') && (
        <button aria-pressed={donorHeld} {...holding(holdDonor)}>
          Donor
        </button>
      )}
      <button aria-pressed={held} {...holding(hold)}>
        Before
      </button>
      <button disabled={!steps.undo} onClick={() => step('undo')}>
        Undo
      </button>
    </Held>
  );
}
