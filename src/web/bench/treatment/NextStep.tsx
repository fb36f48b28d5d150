import { capital } from '../../lib/format.ts';
import styled from 'styled-components';
import { methodOf } from '../../../document/edits/proposed.ts';
import { theme } from '../../theme.ts';
import { Button } from '../../ui/controls.tsx';
import { useBench } from '../useBench.ts';
import { proposedByHand } from './ProposedPart.tsx';

const Foot = styled.section`
  flex: none;
  border-top: 1px solid ${theme.rule};
  background: ${theme.paper};
  padding: 7px 10px;
  display: flex;
  gap: 6px;
  > button {
    flex: 1;
    min-width: 0;
    padding-inline: 8px;
  }
`;

/** The next step for what is chosen, always in the same place. */
export function NextStep() {
  const bench = useBench();
  const { state, fault, faults, repair, treating } = bench;
  const more = state.document.faults.some((f) => f.state === 'open' && f.id !== fault?.id);
  const next = (kind: 'main' | 'plain') => (
    <Button kind={kind} isDisabled={!more} onPress={() => treating.next()}>
      {more ? 'Next open fault' : 'No more open faults'}
    </Button>
  );
  if (!fault) return <Foot aria-label="Next step">{next('main')}</Foot>;
  if (repair)
    return (
      <Foot aria-label="Next step">
        <Button kind="main" onPress={() => treating.settle('accepted')}>
          {faults.length > 1 ? `Accept ${faults.length}, next` : 'Accept, next'}
        </Button>
      </Foot>
    );
  if (methodOf(fault) === 'lift')
    return (
      <Foot aria-label="Next step">
        <Button kind="main" onPress={() => treating.lift()}>
          Lift
        </Button>
        <Button onPress={() => treating.fill()}>{faults.length > 1 ? 'Fill as one' : 'Fill'}</Button>
      </Foot>
    );
  const byHand = proposedByHand(bench);
  return (
    <Foot aria-label="Next step">
      {byHand && (
        <Button kind="main" onPress={() => treating.takeUp(byHand)}>
          {capital(byHand.method)}
        </Button>
      )}
      <Button kind={byHand ? 'plain' : 'main'} onPress={() => treating.fill()}>
        {faults.length > 1 ? 'Fill as one' : 'Fill'}
      </Button>
    </Foot>
  );
}
