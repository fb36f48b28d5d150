import styled from 'styled-components';
import { FAULT_KINDS } from '../../../core/faults/kinds.ts';
import type { Fault } from '../../../contract/document.ts';
import { Select, Toggle } from '../../ui/controls.tsx';
import { DonorList, HandRepairBlock, ProposalBlock } from '../hand/HandCard.tsx';
import { handSpec } from '../hand/settings.ts';
import { Section } from '../Section.tsx';
import { useBench, type Bench } from '../useBench.ts';
import { forEach } from '../useTreating.ts';
import { CoverPart } from './CoverPart.tsx';
import { LiftPart, liftOf } from './LiftPart.tsx';
import { isStretch, isStrip } from '../../../document/edits/repairs.ts';
import { StretchPart } from './StretchPart.tsx';
import { ProposedPart } from './ProposedPart.tsx';
import { RepairPart } from './RepairPart.tsx';
import { TriesPart } from './TriesPart.tsx';
import { theme } from '../../theme.ts';

const Card = styled.div`
  flex: 1;
  min-height: 0;
  overflow: auto;
  padding: 0 11px 9px;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 6px;
  align-content: start;
  .row {
    display: flex;
    gap: 5px;
    align-items: center;
  }
  .two {
    display: grid;
    grid-template-columns: repeat(2, minmax(0, 1fr));
    gap: 0 12px;
  }
  .row > .wide {
    flex: 1;
  }
  button,
  select {
    min-height: 26px;
    font-size: 12.5px;
  }
  .row > button {
    padding-inline: 8px;
  }
  .reason {
    color: ${theme.quiet};
    font-size: 12.5px;
    line-height: 1.35;
  }
  .facts {
    display: flex;
    flex-wrap: wrap;
    gap: 0 10px;
    font-size: 12px;
  }
  hr {
    width: 100%;
    margin: 2px 0;
    border: 0;
    border-top: 1px solid ${theme.rule};
  }
`;

/** What to do where no fault is chosen. */
function wordsForNone({ hand, state }: Bench): string {
  if (hand.mode === 'patch' || hand.mode === 'transplant')
    return 'What is put down becomes a repair of its own. Choose a fault first to treat that one.';
  if (hand.mode && hand.mode !== 'reveal')
    return 'What you paint becomes a repair of its own. Choose a fault first to have brush and donors proposed.';
  return state.document.faults.length === 0
    ? 'Mark what should go: what is measured and proposed appears here.'
    : 'Choose a fault, or go to the next open one.';
}

/** What was measured on the chosen faults, what is proposed, and everything that can be set about their repair. */
export function TreatmentSection() {
  const bench = useBench();
  const { faults, fault, edits } = bench;
  if (!fault)
    return (
      <Section title="Treatment" grows>
        <p className="quiet">{wordsForNone(bench)}</p>
      </Section>
    );
  const kind = (
    <Select
      aria-label="Kind of fault"
      value={fault.kind}
      style={{ minHeight: 24, padding: '1px 4px', width: 80 }}
      onChange={(e) =>
        void edits.edit(
          forEach(faults, (f) => ({ type: 'changeFault', id: f.id, set: { kind: e.target.value as Fault['kind'] } })),
        )
      }
    >
      {FAULT_KINDS.map((k) => (
        <option key={k}>{k}</option>
      ))}
    </Select>
  );
  return (
    <Section
      title="Treatment"
      grows
      beside={
        <>
          <b>{faults.length > 1 ? `${faults.length} faults` : `Fault ${fault.number}`}</b>
          {kind}
        </>
      }
      bare
    >
      <Card>
        <CoverPart key={fault.id} />
        <hr />
        <RepairChoice />
        <MainPart />
        {bench.repair && <RepairPart key={bench.repair.id} />}
      </Card>
    </Section>
  );
}

/** Which of several repairs of a fault is looked at. */
function RepairChoice() {
  const { repairs, repair, chooseRepair } = useBench();
  if (repairs.length < 2) return null;
  return (
    <div className="row" role="group" aria-label="Repairs of this fault" style={{ flexWrap: 'wrap' }}>
      {repairs.map((r, i) => (
        <Toggle key={r.id} isSelected={r.id === repair?.id} onChange={() => chooseRepair(r.id)}>
          {i + 1} {r.tries.find((t) => t.id === r.chosen)!.spec.method}
        </Toggle>
      ))}
    </div>
  );
}

/** The repair as it is, by hand or filled, or what is proposed while there is none. */
function MainPart() {
  const { state, repair, edits, hand, pickVerb, proposal, faults, treating } = useBench();
  if (repair && handSpec(repair))
    return (
      <>
        <HandRepairBlock state={state} repair={repair} edits={edits} hand={hand} onMode={pickVerb} />
        {(hand.mode === 'copy' || hand.mode === 'blend') && proposal && (
          <DonorList donors={proposal.donors} onTake={(d) => hand.setDonor(d.at)} />
        )}
      </>
    );
  if (repair && (isStretch(repair) || isStrip(repair))) return <StretchPart repair={repair} />;
  if (repair && liftOf(repair)) return <LiftPart key={repair.id} repair={repair} />;
  if (hand.mode && faults.length === 1)
    return <ProposalBlock proposal={proposal} hand={hand} onUse={treating.takeUp} />;
  return repair ? <TriesPart repair={repair} /> : <ProposedPart />;
}
