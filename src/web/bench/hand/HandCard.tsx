import useSWR from 'swr';
import type { PictureState, ProposalRequest } from '../../../contract/api.ts';
import type { Fault, HandSpec, Repair } from '../../../contract/document.ts';
import type { Shape } from '../../../core/mask/shapes.ts';
import type { Stroke } from '../../../core/mask/strokes.ts';
import type { DonorAdvice } from '../../../core/repair/hand/donor-search.ts';
import type { Proposal } from '../../../core/plan/proposal.ts';
import { VIEWS } from '../../../contract/addresses.ts';
import { addressOf } from '../../../contract/endpoint.ts';
import { call } from '../../lib/http.ts';
import type { Edits } from '../../lib/edits.ts';
import { Button } from '../../ui/controls.tsx';
import { PoseFields } from '../options/PoseFields.tsx';
import { handSpec, isHand, type PaintedSpec } from './settings.ts';
import { wordsOf } from './words.ts';
import type { Hand } from './useHand.ts';

/** What the adviser says of a fault; undefined while it is asked or when there is none. */
export function useProposal(
  state: PictureState | undefined,
  fault: Fault | undefined,
  barred: Shape[],
): Proposal | undefined {
  const id = state?.picture.id;
  const key = id && fault ? [addressOf(VIEWS.proposal, { id }), fault.id, fault.shapes, fault.kind, barred] : null;
  const { data } = useSWR<Proposal>(
    key,
    () => {
      const request: ProposalRequest = { kind: fault!.kind, shapes: fault!.shapes, barred };
      return call(VIEWS.proposal, { id: id! }, { body: request });
    },
    { revalidateOnFocus: false, keepPreviousData: false },
  );
  return data;
}

const share = (v: number) => `${Math.round(100 * v)} %`;

/** The best donors in reach, each with how it agrees. */
export function DonorList({ donors, onTake }: { donors: DonorAdvice[]; onTake(d: DonorAdvice): void }) {
  if (!donors.length) return null;
  return (
    <div className="row small" role="group" aria-label="Proposed donors" style={{ flexWrap: 'wrap' }}>
      <span className="quiet">Donors:</span>
      {donors.map((d, i) => (
        <Button
          key={d.at.join()}
          aria-label={`Donor ${i + 1}: agrees ${share(d.score)}; tone ${share(d.tone)}, grain ${share(d.grain)}, sharpness ${share(d.sharpness)}, direction ${share(d.direction)}`}
          onPress={() => onTake(d)}
        >
          {i + 1} · {share(d.score)}
        </Button>
      ))}
    </div>
  );
}

/** Strokes made wider or narrower by a factor. */
const sized = (strokes: Stroke[], by: number): Stroke[] =>
  strokes.map((s) => ({ ...s, size: Math.round(Math.min(5000, Math.max(1, s.size * by)) * 10) / 10 }));

/** What is proposed to be done by hand, with the settings that were measured. */
export function ProposalBlock({
  proposal,
  hand,
  onUse,
}: {
  proposal: Proposal | undefined;
  hand: Hand;
  onUse(p: Proposal): void;
}) {
  if (!proposal) return <p className="reason">Measuring…</p>;
  const { method, brush, reason, donors } = proposal;
  return (
    <>
      <div className="row">
        <h3 className="wide">Proposed: {method}</h3>
        <Button onPress={() => onUse(proposal)}>Take it up</Button>
      </div>
      <p className="reason">
        {reason} Brush {brush.size} px, {share(brush.hardness)} hard, {share(brush.flow)} flow.
      </p>
      <DonorList
        donors={donors}
        onTake={(d) => {
          hand.setDonor(d.at);
        }}
      />
    </>
  );
}

/** What can be set about a placed repair by hand. */
export function HandRepairBlock({
  state,
  repair,
  edits,
  hand,
  onMode,
}: {
  state: PictureState;
  repair: Repair;
  edits: Edits;
  hand: Hand;
  onMode(mode: PaintedSpec['method']): void;
}) {
  const spec = handSpec(repair)!;
  const status = state.statuses.find((s) => s.id === repair.id);
  const reason = wordsOf(status, repair);
  const change = (next: HandSpec) => void edits.edit({ type: 'changeSpec', id: repair.id, spec: next });
  const name = spec.method[0].toUpperCase() + spec.method.slice(1);
  return (
    <>
      <div className="row">
        <h3 className="wide">
          {name}
          {'strokes' in spec && (
            <span className="quiet" style={{ fontWeight: 400, marginLeft: 7 }}>
              {spec.strokes.length} {spec.strokes.length === 1 ? 'stroke' : 'strokes'}
            </span>
          )}
        </h3>
        {spec.method === 'copy' && (
          <Button onPress={() => change({ ...spec, method: 'blend', avoid: [] })}>Switch to blend</Button>
        )}
        {spec.method === 'blend' && spec.donor && (
          <Button onPress={() => change({ method: 'copy', strokes: spec.strokes, donor: spec.donor! })}>
            Switch to copy
          </Button>
        )}
        {(spec.method === 'patch' || spec.method === 'transplant') && (
          <Button
            onPress={() => (isHand(hand.mode ?? '') && hand.mode === spec.method ? hand.takeUp() : onMode(spec.method))}
          >
            {hand.mode === spec.method ? 'Take it up' : 'Adjust'}
          </Button>
        )}
        {'strokes' in spec && hand.mode !== spec.method && (
          <Button onPress={() => onMode(spec.method)}>Paint on</Button>
        )}
      </div>
      <p className="reason" role="status">
        {reason}
      </p>
      <div className="row small" style={{ flexWrap: 'wrap' }}>
        {'strokes' in spec && (
          <>
            <Button onPress={() => change({ ...spec, strokes: sized(spec.strokes, 1.1) })}>Grow</Button>
            <Button onPress={() => change({ ...spec, strokes: sized(spec.strokes, 1 / 1.1) })}>Shrink</Button>
            {spec.strokes.length > 1 && (
              <Button onPress={() => change({ ...spec, strokes: spec.strokes.slice(0, -1) })}>Drop last stroke</Button>
            )}
          </>
        )}
        {'donor' in spec && spec.donor && (
          <PoseFields
            pose={spec.donor}
            onChange={({ turn, scale, mirror }) => change({ ...spec, donor: { ...spec.donor!, turn, scale, mirror } })}
          />
        )}
      </div>
      {(repair.reveal?.length ?? 0) > 0 && (
        <div className="row">
          <span className="quiet">Parts are hidden.</span>
          <Button
            kind="quiet"
            onPress={() => void edits.edit({ type: 'changeRepair', id: repair.id, set: { reveal: [] } })}
          >
            Show all of it
          </Button>
        </div>
      )}
    </>
  );
}
