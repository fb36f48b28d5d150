import { capital } from '../lib/format.ts';
import styled from 'styled-components';
import { Button, Strip, Toggle } from '../ui/controls.tsx';
import { hint, type CommandName } from './commands.ts';
import { HAND_MODES, isHand, type HandMode } from './hand/settings.ts';
import { isArea, type Mode } from './store.ts';
import { useBench } from './useBench.ts';

const Verbs = styled.div`
  display: flex;
  gap: 8px;
  align-items: center;
  button {
    min-height: 28px;
    padding-inline: 9px;
  }
  @media (max-width: 1150px) {
    gap: 4px;
    font-size: 12.5px;
    button {
      padding-inline: 4px;
      letter-spacing: -0.02em;
    }
  }
`;

/** Where the key of each verb stands among the commands. */
const KEYS: Record<HandMode, [CommandName, number]> = {
  copy: ['copy', 0],
  blend: ['copy', 1],
  patch: ['patch', 0],
  transplant: ['patch', 1],
  shade: ['shade', 0],
  reveal: ['shade', 1],
};

/** What can be done, in words. */
export function VerbRow() {
  const { mode, pickVerb, faults, treating } = useBench();
  const pick = (keys: Iterable<unknown>) => pickVerb(([...keys][0] as Mode | undefined) ?? 'look');
  return (
    <Verbs role="toolbar" aria-label="Verbs">
      <Strip
        aria-label="What the pointer does"
        selectionMode="single"
        selectedKeys={isHand(mode) ? [] : [isArea(mode) ? 'mark' : mode]}
        onSelectionChange={pick}
      >
        <Toggle id="look" aria-keyshortcuts={hint('look')}>
          Look
        </Toggle>
        <Toggle id="mark" aria-keyshortcuts={hint('look', 1)}>
          Mark
        </Toggle>
        <Toggle id="trace" aria-keyshortcuts={hint('trace')}>
          Trace
        </Toggle>
      </Strip>
      <Button isDisabled={!faults.length} aria-keyshortcuts={hint('fill')} onPress={() => treating.fill()}>
        Fill
      </Button>
      <Button isDisabled={!faults.length} aria-keyshortcuts={hint('lift')} onPress={() => treating.lift()}>
        Lift
      </Button>
      <Strip
        aria-label="What is done by hand"
        selectionMode="single"
        selectedKeys={isHand(mode) ? [mode] : []}
        onSelectionChange={pick}
      >
        {HAND_MODES.map((m) => (
          <Toggle key={m} id={m} aria-keyshortcuts={hint(...KEYS[m])}>
            {capital(m)}
          </Toggle>
        ))}
      </Strip>
    </Verbs>
  );
}
