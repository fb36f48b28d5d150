import { useEffect, useState } from 'react';
import styled from 'styled-components';
import type { PictureState } from '../../contract/api.ts';
import { type Fault, type Repair } from '../../contract/document.ts';
import { FAULT_KINDS, kindFacts } from '../../core/faults/kinds.ts';
import { atDelivery } from '../../core/frame/delivery.ts';
import { proposeCover } from '../../core/plan/cover.ts';
import { depthOfStrands, stylesFor, THIN_DEPTH, type Tone } from '../../core/repair/fill/settings.ts';
import type { Edits } from '../lib/edits.ts';
import { count, millimetres } from '../lib/format.ts';
import { theme } from '../theme.ts';
import { Button, Check, Select, Slider, Toggle } from '../ui/controls.tsx';
import type { Proposal } from '../../core/plan/proposal.ts';
import { DonorList, HandRepairBlock, ProposalBlock } from './hand/HandCard.tsx';
import { handSpec, type Hand, type HandMode } from './hand/useHand.ts';
import { AreasNote, Earlier, STYLE_WORDS, Tries, TryThumb, type FillAreas } from './Tries.tsx';
import type { Preview } from '../viewer/CloseUp.tsx';
import { factsOf } from '../worklist/Worklist.tsx';

const Card = styled.section`
  display: grid;
  grid-template-columns: 160px 152px minmax(0, 1fr) 168px;
  border-top: 1px solid ${theme.rule};
  background: ${theme.sheet};
  height: 196px;
  min-height: 0;
  font-size: 13px;
  > div {
    padding: 9px 12px;
    border-left: 1px solid ${theme.rule};
    display: grid;
    grid-template-columns: minmax(0, 1fr);
    gap: 5px;
    align-content: start;
    min-width: 0;
    overflow: auto;
  }
  > div:first-child {
    border-left: 0;
  }
  h3 {
    display: flex;
    align-items: baseline;
    gap: 6px;
  }
  .row {
    display: flex;
    gap: 5px;
    align-items: center;
  }
  .small button,
  .small select {
    min-height: 24px;
    padding: 1px 7px;
    font-size: 12.5px;
  }
  .row > :only-child,
  .row > .wide {
    flex: 1;
  }
  .reason {
    color: ${theme.quiet};
    font-size: 12.5px;
    line-height: 1.35;
  }
  &.empty {
    display: flex;
    align-items: center;
    padding: 0 22px;
    gap: 18px;
    color: ${theme.quiet};
  }
`;
const Row = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 10px;
`;

/** The repairs of several faults. */
const repairsOf = (state: PictureState, faults: Fault[]): string[] =>
  state.document.repairs.filter((r) => r.faultIds.some((id) => faults.some((f) => f.id === id))).map((r) => r.id);

/** What was measured on the chosen fault, what is proposed, and everything that can be set about its repair. */
export function TreatmentCard(props: {
  state: PictureState;
  longSideMm: number;
  faults: Fault[];
  repair: Repair | undefined;
  layerId: string | null;
  onLayer(id: string | null): void;
  edits: Edits;
  areas: FillAreas;
  onHover(preview: Preview | null): void;
  onNext(): void;
  onDone(fault: Fault): void;
  fillNow: { current: (() => void) | null };
  hand: Hand;
  proposal: Proposal | undefined;
  onMode(mode: HandMode | 'look'): void;
  onUse(proposal: Proposal): void;
  /** the repairs of the chosen fault, the newest last, and the choice among them */
  repairs: Repair[];
  onRepair(id: string): void;
}) {
  const { state, faults, repair, edits, areas, onHover } = props;
  const [tone, setTone] = useState<Tone>('strong');
  const [pose, setPose] = useState({ turn: false, scale: false, mirror: false });
  const [local, setLocal] = useState<{ margin?: number; feather?: number; strength?: number }>({});
  const fault = faults[0];
  useEffect(() => setLocal({}), [fault?.id]);
  const fill = (again: boolean, portions = 1) => {
    if (!faults.length) return;
    void edits.fill({
      faultIds: repair && again ? repair.faultIds : faults.map((f) => f.id),
      layerId: props.layerId,
      repairId: repair && again ? repair.id : null,
      donorArea: areas.donor,
      barred: areas.barred,
      edges: areas.edges,
      grounds: areas.grounds,
      settings: { tone, ...pose },
      portions,
    });
  };
  const filled = repair?.tries[0].spec.method === 'fill';
  props.fillNow.current = () => fill(filled);

  if (!fault) {
    return (
      <Card className="empty" aria-label="Treatment">
        <p>
          {props.hand.mode === 'patch' || props.hand.mode === 'transplant'
            ? 'What is put down becomes a repair of its own, whose place joins the worklist. Choose a fault first to treat that one.'
            : props.hand.mode && props.hand.mode !== 'reveal'
              ? 'What you paint becomes a repair of its own, whose place joins the worklist. Choose a fault first to treat that one, with brush and donors proposed.'
              : state.document.faults.length === 0
                ? 'Mark what should go. What is measured, the proposed repair and its tries appear here.'
                : 'Choose a fault in the worklist, or press N for the next open one.'}
        </p>
        {state.document.faults.some((f) => f.state === 'open') && (
          <Button kind="main" onPress={props.onNext}>
            Next open fault
          </Button>
        )}
      </Card>
    );
  }
  const { width, height } = state.picture.facts;
  const facts = factsOf(fault, state);
  const proposal = proposeCover(facts);
  const mm = (px: number) => atDelivery(px, Math.max(width, height), { longSideMm: props.longSideMm });
  const status = repair && state.statuses.find((s) => s.id === repair.id);
  const chosen = repair && status?.tries[repair.chosen];
  const across = facts.width / 2 + fault.margin + fault.feather;
  const depth = kindFacts(fault.kind).strands ? depthOfStrands(across) : across;
  const thin = depth <= THIN_DEPTH;
  const spec = repair?.tries.find((t) => t.id === repair.chosen)?.spec;
  const coverChanged =
    repair?.faultIds.length === 1 &&
    spec?.method === 'fill' &&
    JSON.stringify([spec.cover, spec.margin, spec.feather]) !==
      JSON.stringify([fault.shapes, fault.margin, fault.feather]);
  /** what is proposed where it is not a fill */
  const byHand = faults.length === 1 && props.proposal && props.proposal.method !== 'fill' ? props.proposal : undefined;
  const setCover = (set: { margin?: number; feather?: number }) =>
    void edits.edit({ type: 'changeFault', id: fault.id, set }).then(() => setLocal({}));
  return (
    <Card aria-label="Treatment">
      <div>
        <h3>{faults.length > 1 ? `${faults.length} faults` : `Fault ${fault.number}`}</h3>
        {faults.length === 1 && (
          <Select
            aria-label="Kind of fault"
            value={fault.kind}
            onChange={(e) =>
              void edits.edit({ type: 'changeFault', id: fault.id, set: { kind: e.target.value as Fault['kind'] } })
            }
          >
            {FAULT_KINDS.map((k) => (
              <option key={k}>{k}</option>
            ))}
          </Select>
        )}
        <span className="mono">{Math.round(facts.width)} px across</span>
        <span className="mono">
          {count(facts.bounds.width)} × {count(facts.bounds.height)} px
        </span>
        <span className="mono" title="At delivery">
          {millimetres(mm(facts.bounds.width), mm(facts.bounds.height))}
        </span>
        <div className="row">
          <Button
            onPress={() => {
              void edits.edit({
                type: 'changeFault',
                id: fault.id,
                set: { state: fault.state === 'left' ? 'open' : 'left' },
              });
              props.onNext();
            }}
          >
            {fault.state === 'left' ? 'Reopen' : 'Leave it'}
          </Button>
          <Button kind="quiet" onPress={() => void edits.edit({ type: 'removeFault', id: fault.id })}>
            Remove
          </Button>
        </div>
      </div>
      <div>
        <h3>Cover</h3>
        <Slider
          label="Margin"
          unit="px"
          min={0}
          max={40}
          value={local.margin ?? fault.margin}
          onChange={(margin) => setLocal((l) => ({ ...l, margin }))}
          onChangeEnd={(margin) => setCover({ margin })}
        />
        <Slider
          label="Feather"
          unit="px"
          min={0}
          max={40}
          value={local.feather ?? fault.feather}
          onChange={(feather) => setLocal((l) => ({ ...l, feather }))}
          onChangeEnd={(feather) => setCover({ feather })}
        />
        <p className="reason">{fault.advice?.reason ?? proposal.reason}</p>
      </div>
      <div>
        {props.repairs.length > 1 && (
          <div className="row" role="group" aria-label="Repairs of this fault" style={{ flexWrap: 'wrap' }}>
            {props.repairs.map((r, i) => (
              <Toggle
                key={r.id}
                style={{ minHeight: 22, padding: '0 7px', fontSize: 12 }}
                isSelected={r.id === repair?.id}
                onChange={() => props.onRepair(r.id)}
              >
                {i + 1} {r.tries.find((t) => t.id === r.chosen)!.spec.method}
              </Toggle>
            ))}
          </div>
        )}
        {repair && handSpec(repair) ? (
          <>
            <HandRepairBlock state={state} repair={repair} edits={edits} hand={props.hand} onMode={props.onMode} />
            {(props.hand.mode === 'copy' || props.hand.mode === 'blend') && props.proposal && (
              <DonorList donors={props.proposal.donors} onTake={(d) => props.hand.setDonor(d.at)} />
            )}
          </>
        ) : props.hand.mode && faults.length === 1 ? (
          <ProposalBlock proposal={props.proposal} hand={props.hand} onUse={props.onUse} />
        ) : repair ? (
          <>
            <div className="row">
              <h3 className="wide">Tries</h3>
              <Button onPress={() => fill(true)}>Three more</Button>
            </div>
            <Earlier state={state} repair={repair} edits={edits} />
            <AreasNote areas={areas} />
            <p className="reason" role="status">
              {coverChanged
                ? 'The cover has changed since: three more tries use it.'
                : status?.state === 'stale'
                  ? 'Being made again: what it samples has changed.'
                  : status?.state === 'failed'
                    ? status.message
                    : chosen?.reason}
            </p>
            <Tries aria-label="Tries">
              {repair.tries.map((t, i) => (
                <TryThumb
                  key={t.id}
                  state={state}
                  repair={repair}
                  tryId={t.id}
                  n={i + 1}
                  onHover={onHover}
                  onChoose={() => {
                    onHover(null);
                    void edits.edit({ type: 'changeRepair', id: repair.id, set: { chosen: t.id } });
                  }}
                />
              ))}
            </Tries>
          </>
        ) : (
          <>
            <h3>{byHand ? `Proposed: ${byHand.method}` : 'Fill'}</h3>
            {props.proposal && faults.length === 1 && <p className="reason">{props.proposal.reason}</p>}
            <p className="reason">
              {byHand
                ? 'A fill would make three tries: '
                : thin
                  ? `${Math.round(2 * depth)} px across with its margin: predicted from the pixels beside it, which comes closer than any donor. Three tries: `
                  : `${Math.round(2 * depth)} px across with its margin: too wide to predict, so it is laid out by what is around, then filled from there. Three tries: `}
              {stylesFor(depth)
                .map((s) => STYLE_WORDS[s])
                .join(', ')}
              .
            </p>
            <Row>
              <label>
                Tone from around{' '}
                <Select value={tone} onChange={(e) => setTone(e.target.value as Tone)}>
                  <option value="none">none</option>
                  <option value="gentle">gentle</option>
                  <option value="strong">strong</option>
                </Select>
              </label>
            </Row>
            <Row role="group" aria-label="Donors may be">
              <span className="quiet">Donors</span>
              {(['turn', 'scale', 'mirror'] as const).map((k) => (
                <Check key={k} isSelected={pose[k]} onChange={(on) => setPose((p) => ({ ...p, [k]: on }))}>
                  {{ turn: 'turned', scale: 'scaled', mirror: 'mirrored' }[k]}
                </Check>
              ))}
            </Row>
            <AreasNote areas={areas} />
          </>
        )}
      </div>
      <div>
        {repair ? (
          <>
            <Slider
              label="Strength"
              unit="%"
              min={0}
              max={100}
              value={Math.round((local.strength ?? repair.strength) * 100)}
              onChange={(v) => setLocal((l) => ({ ...l, strength: v / 100 }))}
              onChangeEnd={(v) =>
                void edits
                  .edit(
                    faults.length > 1
                      ? { type: 'setStrength', ids: repairsOf(state, faults), strength: v / 100 }
                      : { type: 'changeRepair', id: repair.id, set: { strength: v / 100 } },
                  )
                  .then(() => setLocal((l) => ({ ...l, strength: undefined })))
              }
            />
            <Select
              aria-label="Repair layer"
              value={repair.layerId}
              onChange={(e) =>
                void edits.edit({ type: 'changeRepair', id: repair.id, set: { layerId: e.target.value } })
              }
            >
              {state.document.layers.map((l) => (
                <option key={l.id} value={l.id}>
                  on {l.name}
                </option>
              ))}
            </Select>
            <div className="row">
              <Button
                onPress={() =>
                  void edits.edit({ type: 'changeRepair', id: repair.id, set: { visible: !repair.visible } })
                }
              >
                {repair.visible ? 'Hide' : 'Show'}
              </Button>
              <Button
                kind="quiet"
                aria-label="Delete repair"
                onPress={() => void edits.edit({ type: 'removeRepair', id: repair.id })}
              >
                Delete
              </Button>
            </div>
            <div className="row">
              <Button
                kind="main"
                onPress={() => {
                  props.onDone(fault);
                  void edits.edit({ type: 'changeFault', id: fault.id, set: { state: 'checked' } });
                  props.onNext();
                }}
              >
                Accept, next
              </Button>
            </div>
          </>
        ) : (
          <>
            {byHand && (
              <Button kind="main" onPress={() => props.onUse(byHand)}>
                {byHand.method[0].toUpperCase() + byHand.method.slice(1)}
              </Button>
            )}
            <Button kind={byHand ? 'plain' : 'main'} onPress={() => fill(false)}>
              {faults.length > 1 ? 'Fill as one' : 'Fill'}
            </Button>
            {faults.length === 1 && (fault.advice?.portions ?? 1) > 1 && (
              <Button onPress={() => fill(false, fault.advice!.portions)}>In {fault.advice!.portions} portions</Button>
            )}
            <Select
              aria-label="Repair layer"
              value={props.layerId ?? ''}
              onChange={(e) => props.onLayer(e.target.value || null)}
            >
              <option value="">on layer by kind</option>
              {state.document.layers.map((l) => (
                <option key={l.id} value={l.id}>
                  on {l.name}
                </option>
              ))}
            </Select>
            <Button onPress={props.onNext}>Next open fault</Button>
          </>
        )}
      </div>
    </Card>
  );
}
