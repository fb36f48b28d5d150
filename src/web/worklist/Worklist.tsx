import { useVirtualizer } from '@tanstack/react-virtual';
import { useCallback, useEffect, useMemo, useRef } from 'react';
import styled from 'styled-components';
import type { PictureState } from '../../contract/api.ts';
import type { Fault } from '../../contract/document.ts';
import { atDelivery } from '../../core/frame/delivery.ts';
import { thumbnailFrame, measureFault, type FaultFacts } from '../../core/plan/cover.ts';
import { minutesForAll } from '../../core/plan/minutes.ts';
import { inOrderOfWork } from '../../core/plan/order.ts';
import { minutesOfArc, type Viewing } from '../../core/plan/visibility.ts';
import { boxAround } from '../../core/raster/raster.ts';
import type { WorkClock } from './useWorkClock.ts';
import { pieceOf } from '../lib/api.ts';
import { duration } from '../lib/format.ts';
import { theme } from '../theme.ts';
import { Select } from '../ui/controls.tsx';
import { FaultRow, ROW_HEIGHT } from './FaultRow.tsx';

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
  .plan.seen {
    white-space: normal;
    margin: 0;
    padding: 5px 12px;
    font-size: 12px;
  }
  .rows {
    overflow: auto;
    flex: 1;
  }
  ol {
    list-style: none;
    margin: 0;
    padding: 0;
    position: relative;
  }
  .empty {
    padding: 16px 14px;
    color: ${theme.quiet};
    font-size: 13px;
    display: grid;
    gap: 8px;
  }
`;

const known = new WeakMap<Fault, FaultFacts>();

function measured(fault: Fault, width: number, height: number): FaultFacts {
  let facts = known.get(fault);
  if (!facts) known.set(fault, (facts = measureFault(fault.shapes, width, height)));
  return facts;
}

/** Facts of a fault, measured once for each version of it. */
export const factsOf = (fault: Fault, { picture: { facts } }: PictureState): FaultFacts =>
  measured(fault, facts.width, facts.height);

/** Square around a fault, for its thumbnail. */
function around(fault: Fault, state: PictureState): string {
  const { facts, id } = state.picture;
  const { middle, side } = thumbnailFrame(factsOf(fault, state));
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
  const chosen = useRef(selected);
  chosen.current = selected;
  const take = useCallback(
    (id: string, how: 'alone' | 'more' | 'less') =>
      onSelect(
        how === 'alone' ? [id] : how === 'more' ? [...chosen.current, id] : chosen.current.filter((s) => s !== id),
      ),
    [onSelect],
  );
  const { faults: all } = state.document;
  // eslint-disable-next-line react-hooks/exhaustive-deps -- the order follows the faults, not all that changes of a picture
  const faults = useMemo(() => orderedFaults(state, props.order), [all, props.order]);
  const list = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: faults.length,
    getScrollElement: () => list.current,
    estimateSize: () => ROW_HEIGHT,
    getItemKey: (n) => faults[n].id,
    overscan: 8,
  });
  const first = selected[0];
  const firstAt = useMemo(() => faults.findIndex((f) => f.id === first), [faults, first]);
  useEffect(() => {
    if (firstAt >= 0) rows.scrollToIndex(firstAt, { align: 'auto' });
  }, [firstAt, rows]);
  const openOnes = useMemo(() => faults.filter((f) => f.state === 'open'), [faults]);
  const open = openOnes.length;
  const left = useMemo(
    () =>
      minutesForAll(
        openOnes.map((f) => f.kind),
        clock.log,
      ),
    [openOnes, clock.log],
  );
  const { longSideMm, distanceMm } = viewing;
  const isTiny = useMemo(() => {
    const arcOf = (px: number) => minutesOfArc(atDelivery(px, Math.max(width, height), { longSideMm }), distanceMm);
    return (fault: Fault) => arcOf(sizeOf(measured(fault, width, height))) < RESOLVED;
  }, [width, height, longSideMm, distanceMm]);
  const seen = useMemo(() => openOnes.filter((f) => !isTiny(f)).length, [openOnes, isTiny]);
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
        <div className="rows" ref={list}>
          <ol style={{ height: rows.getTotalSize() }}>
            {rows.getVirtualItems().map(({ index, start }) => {
              const fault = faults[index];
              return (
                <FaultRow
                  key={fault.id}
                  fault={fault}
                  place={index + 1}
                  of={faults.length}
                  start={start}
                  size={sizeOf(measured(fault, width, height))}
                  mm={atDelivery(sizeOf(measured(fault, width, height)), Math.max(width, height), viewing)}
                  look={around(fault, state)}
                  on={selected.includes(fault.id)}
                  tiny={isTiny(fault)}
                  onTake={take}
                />
              );
            })}
          </ol>
        </div>
      )}
    </List>
  );
}
