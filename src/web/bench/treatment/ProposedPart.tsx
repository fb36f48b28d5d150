import { kindFacts } from '../../../core/faults/kinds.ts';
import { depthOfStrands, stylesFor, THIN_DEPTH } from '../../../core/repair/fill/settings.ts';
import { methodOf } from '../../../document/edits/proposed.ts';
import { Button, Select } from '../../ui/controls.tsx';
import { factsOf } from '../../worklist/rows.ts';
import { useBench, type Bench } from '../useBench.ts';
import { FillOptions } from './FillOptions.tsx';
import { AreasNote, STYLE_WORDS } from './Tries.tsx';

/** What is proposed where it is not a fill. */
export const proposedByHand = ({ faults, proposal }: Bench) =>
  faults.length === 1 && proposal && proposal.method !== 'fill' ? proposal : undefined;

/** What is proposed for a fault without a repair, and how a fill of it would be made. */
export function ProposedPart() {
  const bench = useBench();
  const { state, fault, faults, proposal, areas, treating, layerId, chooseLayer } = bench;
  if (!fault) return null;
  if (methodOf(fault) === 'lift')
    return (
      <>
        <h3>Proposed: lift</h3>
        <p className="reason">
          The true edge is looked for near the outline, and what it does to tone and colour is measured there and taken
          off. A fill would make up what can still be read.
        </p>
      </>
    );
  const byHand = proposedByHand(bench);
  const across = factsOf(fault, state).width / 2 + fault.margin + fault.feather;
  const depth = kindFacts(fault.kind).strands ? depthOfStrands(across) : across;
  const portions = fault.advice?.portions ?? 1;
  return (
    <>
      <h3>{byHand ? `Proposed: ${byHand.method}` : 'Fill'}</h3>
      {proposal && faults.length === 1 && <p className="reason">{proposal.reason}</p>}
      <p className="reason">
        {byHand
          ? 'A fill would make three tries: '
          : depth <= THIN_DEPTH
            ? `${Math.round(2 * depth)} px across with its margin: predicted from the pixels beside it, which comes closer than any donor. Three tries: `
            : `${Math.round(2 * depth)} px across with its margin: too wide to predict, so it is laid out by what is around, then filled from there. Three tries: `}
        {stylesFor(depth)
          .map((s) => STYLE_WORDS[s])
          .join(', ')}
        .
      </p>
      <FillOptions />
      <Select aria-label="Repair layer" value={layerId ?? ''} onChange={(e) => chooseLayer(e.target.value || null)}>
        <option value="">on the layer of its kind</option>
        {state.document.layers.map((l) => (
          <option key={l.id} value={l.id}>
            on {l.name}
          </option>
        ))}
      </Select>
      <AreasNote areas={areas} />
      {faults.length === 1 && portions > 1 && (
        <Button onPress={() => treating.fill(portions)}>Fill in {portions} portions</Button>
      )}
    </>
  );
}
