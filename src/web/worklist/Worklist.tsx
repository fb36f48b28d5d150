import { useEffect, useMemo, useRef } from 'react';
import styled from 'styled-components';
import type { PictureState } from '../../contract/api.ts';
import type { Fault } from '../../contract/document.ts';
import { atDelivery } from '../../core/frame/delivery.ts';
import { closeLook, measureFault, type FaultFacts } from '../../core/plan/cover.ts';
import { minutesForAll } from '../../core/plan/minutes.ts';
import { inOrderOfWork } from '../../core/plan/order.ts';
import { minutesOfArc, type Viewing } from '../../core/plan/visibility.ts';
import { boxAround } from '../../core/raster/raster.ts';
import type { WorkClock } from '../bench/useWorkClock.ts';
import { pieceOf } from '../lib/api.ts';
import { duration, millimetres } from '../lib/format.ts';
import { theme } from '../theme.ts';
import { Check, Select } from '../ui/controls.tsx';

const List = styled.section`
  display: flex;
  flex-direction: column;
  min-height: 0;
  border-right: 1px solid ${theme.rule};
  background: ${theme.sheet};
  header {
    display: flex;
    align-items: baseline;
    gap: 8px;
    padding: 9px 12px 7px;
    border-bottom: 1px solid ${theme.rule};
  }
  header span {
    margin-left: auto;
  }
  .plan {
    display: flex;
    justify-content: space-between;
    align-items: center;
    gap: 6px;
    padding: 4px 8px 4px 6px;
    border-bottom: 1px solid ${theme.rule};
    white-space: nowrap;
  }
  .plan select {
    border-color: transparent;
    background: none;
    padding: 2px 0;
    min-height: 24px;
    font-size: 12px;
  }
  .plan span {
    font-size: 11px;
  }
  .seen {
    margin: 0;
    padding: 5px 12px;
    font-size: 12px;
  }
  ol {
    list-style: none;
    margin: 0;
    padding: 0;
    overflow: auto;
    flex: 1;
  }
  .empty {
    padding: 16px 14px;
    color: ${theme.quiet};
    font-size: 13px;
    display: grid;
    gap: 8px;
  }
`;
const Row = styled.li<{ $on: boolean; $tiny: boolean }>`
  display: grid;
  grid-template-columns: 52px 1fr auto;
  gap: 9px;
  align-items: center;
  padding: 6px 10px 6px 9px;
  border-bottom: 1px solid ${theme.rule};
  border-left: 3px solid ${({ $on }) => ($on ? theme.accent : 'transparent')};
  background: ${({ $on }) => ($on ? theme.accentTint : 'transparent')};
  > button {
    display: contents;
    text-align: left;
    cursor: pointer;
  }
  img {
    opacity: ${({ $tiny }) => ($tiny ? 0.5 : 1)};
    width: 52px;
    height: 52px;
    object-fit: cover;
    background: #808080;
    display: block;
  }
  .what {
    display: grid;
    line-height: 1.3;
    min-width: 0;
  }
  .what b {
    font-weight: 600;
  }
  .size {
    font-size: 11.5px;
    color: ${theme.quiet};
    white-space: nowrap;
  }
  .state {
    font-size: 12px;
  }
`;

const STATE_WORDS = { open: 'open', treated: 'treated', left: 'left as it is', checked: 'checked' } as const;

const known = new WeakMap<Fault, FaultFacts>();

/** Facts of a fault, measured once for each version of it. */
export function factsOf(fault: Fault, state: PictureState): FaultFacts {
  let facts = known.get(fault);
  if (!facts)
    known.set(fault, (facts = measureFault(fault.shapes, state.picture.facts.width, state.picture.facts.height)));
  return facts;
}

/** Square around a fault, for its thumbnail. */
function around(fault: Fault, state: PictureState): string {
  const { facts, id } = state.picture;
  const { middle, side } = closeLook(factsOf(fault, state));
  const least = Math.min(side, facts.width, facts.height);
  const box = boxAround(middle, { width: least, height: least }, facts);
  return `/api/pictures/${id}/close-up?${pieceOf(box, state.pixels)}&side=104`;
}

/** A fault's size in one figure, px: across where it is long and thin, else its long side. */
function sizeOf(facts: FaultFacts): number {
  const long = Math.max(facts.bounds.width, facts.bounds.height);
  return Math.round(long > 4 * facts.width ? facts.width : long);
}

/** How rows stand: as they are best worked through, or as they were marked. */
export type Order = 'work' | 'number';

/** The faults of a picture in an order. */
export function orderedFaults(state: PictureState, order: Order): Fault[] {
  const { faults } = state.document;
  if (order === 'number') return faults;
  const rows = faults.map((fault) => {
    const { bounds, width } = factsOf(fault, state);
    return { id: fault.id, kind: fault.kind, box: bounds, across: width, fault };
  });
  return inOrderOfWork(rows).map((r) => r.fault);
}

/** Minutes of arc below which a fault's size is beyond a normal eye at delivery. */
const RESOLVED = 1;

/** The faults of a picture, each with a close look, its kind, size and state. */
export function Worklist(props: {
  state: PictureState;
  viewing: Viewing;
  order: Order;
  onOrder(order: Order): void;
  clock: Pick<WorkClock, 'log' | 'spentMinutes'>;
  selected: string[];
  onSelect(ids: string[]): void;
}) {
  const { state, selected, onSelect, viewing, clock } = props;
  const { width, height } = state.picture.facts;
  const faults = useMemo(() => orderedFaults(state, props.order), [state, props.order]);
  const list = useRef<HTMLOListElement>(null);
  const first = selected[0];
  useEffect(() => {
    list.current?.querySelector(`[data-id="${first}"]`)?.scrollIntoView({ block: 'nearest' });
  }, [first]);
  const openOnes = faults.filter((f) => f.state === 'open');
  const open = openOnes.length;
  const left = minutesForAll(
    openOnes.map((f) => f.kind),
    clock.log,
  );
  const arcOf = (px: number) => minutesOfArc(atDelivery(px, Math.max(width, height), viewing), viewing.distanceMm);
  const isTiny = (fault: Fault) => arcOf(sizeOf(factsOf(fault, state))) < RESOLVED;
  const seen = openOnes.filter((f) => !isTiny(f)).length;
  return (
    <List aria-label="Worklist">
      <header>
        <h2>Worklist</h2>
        <span className="mono quiet">
          {open} open of {faults.length}
        </span>
      </header>
      {faults.length > 0 && (
        <p className="plan">
          <Select
            aria-label="Order of the worklist"
            value={props.order}
            onChange={(e) => props.onOrder(e.target.value as Order)}
          >
            <option value="work">in order</option>
            <option value="number">by number</option>
          </Select>
          <span
            className="mono quiet"
            title={`Time spent on this picture; left for what is open, most likely ${duration(left.low)} to ${duration(left.high)}${left.from ? `, from your own times` : ', from usual figures'}`}
          >
            {duration(clock.spentMinutes)} · {open ? `${duration(left.minutes)} left` : 'none left'}
          </span>
        </p>
      )}
      {seen < open && (
        <p className="plan seen quiet">
          {seen} of {open} open can be seen at delivery
        </p>
      )}
      {faults.length === 0 ? (
        <div className="empty">
          <p>Nothing is marked yet.</p>
          <p>
            Choose <b>Mark</b> above the picture and draw over what should go: each mark becomes a row here.
          </p>
        </div>
      ) : (
        <ol ref={list}>
          {faults.map((fault) => {
            const facts = factsOf(fault, state);
            const on = selected.includes(fault.id);
            const tiny = isTiny(fault);
            const name = `Fault ${fault.number}, ${fault.kind}, ${STATE_WORDS[fault.state]}`;
            return (
              <Row key={fault.id} $on={on} $tiny={tiny} data-id={fault.id}>
                <button
                  aria-label={name}
                  aria-pressed={on}
                  onClick={(e) =>
                    onSelect(
                      e.shiftKey || e.ctrlKey || e.metaKey
                        ? on
                          ? selected.filter((s) => s !== fault.id)
                          : [...selected, fault.id]
                        : [fault.id],
                    )
                  }
                >
                  <img alt="" loading="lazy" src={around(fault, state)} />
                  <span className="what">
                    <span>
                      <b>{fault.number}</b> {fault.kind}
                    </span>
                    <span className="size mono">
                      {sizeOf(facts)} px · {millimetres(atDelivery(sizeOf(facts), Math.max(width, height), viewing))}
                    </span>
                    <span className="state quiet">
                      {STATE_WORDS[fault.state]}
                      {tiny && ', too small to see'}
                    </span>
                  </span>
                </button>
                <Check
                  aria-label={`Also take fault ${fault.number}`}
                  isSelected={on}
                  onChange={(take) => onSelect(take ? [...selected, fault.id] : selected.filter((s) => s !== fault.id))}
                />
              </Row>
            );
          })}
        </ol>
      )}
    </List>
  );
}
