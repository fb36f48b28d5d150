import { useVirtualizer } from '@tanstack/react-virtual';
import { ChevronDown, ChevronRight } from 'lucide-react';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { Link } from 'react-router';
import styled from 'styled-components';
import type { PictureState } from '../../contract/api.ts';
import type { Fault } from '../../contract/document.ts';
import { kindFacts } from '../../core/faults/kinds.ts';
import { atDelivery } from '../../core/frame/delivery.ts';
import { minutesForAll } from '../../core/plan/minutes.ts';
import { minutesOfArc, type Viewing } from '../../core/frame/visibility.ts';
import type { WorkClock } from './useWorkClock.ts';
import { duration } from '../lib/format.ts';
import { canvasOfState } from '../lib/canvas.ts';
import { theme } from '../theme.ts';
import { toStage } from '../lib/stages.ts';
import { Select } from '../ui/controls.tsx';
import { Waiting } from './Waiting.tsx';
import { FaultRow, ROW_HEIGHT, STATE_WORDS } from './FaultRow.tsx';
import {
  choicesOf,
  looksAgain,
  orderedFaults,
  partedRows,
  shownRows,
  standings,
  sizeOfFault,
  thumbnailOf,
  type Order,
  type Shown,
} from './rows.ts';

/** The row beneath which stands what is done with, and its height in px. */
const FOLD = 'fold';
const FOLD_HEIGHT = 28;

const List = styled.section`
  display: flex;
  flex-direction: column;
  min-height: 0;
  flex: 1 1 0;
  background: ${theme.sheet};
  header {
    display: flex;
    align-items: baseline;
    gap: 8px;
    padding: 9px 10px 7px;
    border-bottom: 1px solid ${theme.rule};
  }
  header span {
    margin-left: auto;
    white-space: nowrap;
    font-size: 11.5px;
    letter-spacing: -0.02em;
  }
  .plan {
    display: grid;
    grid-template-columns: repeat(2, minmax(0, 1fr));
    gap: 4px;
    padding: 4px 6px;
  }
  .plan select {
    min-height: 24px;
    padding: 1px 2px;
    font-size: 12px;
  }
  .time {
    padding: 0 10px 5px;
    font-size: 11px;
    letter-spacing: -0.02em;
  }
  .fold {
    position: absolute;
    left: 0;
    right: 0;
    height: ${FOLD_HEIGHT}px;
    border-bottom: 1px solid ${theme.rule};
    background: ${theme.sunk};
    button {
      width: 100%;
      height: 100%;
      border: 0;
      background: none;
      display: flex;
      align-items: center;
      gap: 5px;
      padding: 0 8px;
      font-size: 12.5px;
      cursor: pointer;
    }
  }
  .rows {
    overflow: auto;
    border-top: 1px solid ${theme.rule};
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

/** Minutes of arc below which a fault's size is beyond a normal eye at delivery. */
const RESOLVED = 1;

/** The faults of a picture, each with a close look, its kind, size and state; what is done with folds away. */
export function Worklist(props: {
  state: PictureState;
  viewing: Viewing;
  order: Order;
  onOrder(order: Order): void;
  shown: Shown;
  onShown(shown: Shown): void;
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
  const { order } = props;
  const canvas = canvasOfState(state);
  const again = useMemo(() => looksAgain(state, viewing), [state, viewing]);
  const faults = useMemo(() => orderedFaults(all, canvas, order), [all, canvas, order]);
  const standing = useMemo(() => standings(state), [state]);
  const choices = useMemo(() => choicesOf(faults), [faults]);
  const shown = shownRows(props.shown, choices);
  const [folded, setFolded] = useState(() => localStorage.getItem('doneFolded') !== 'no');
  const fold = (on: boolean) => {
    setFolded(on);
    localStorage.setItem('doneFolded', on ? 'yes' : 'no');
  };
  const { open, done } = useMemo(() => partedRows(faults, shown), [faults, shown]);
  const isFolded = folded && open.length > 0;
  const rows = useMemo((): Array<Fault | typeof FOLD> => {
    const below = isFolded ? done.filter((f) => selected.includes(f.id)) : done;
    return done.length ? [...open, FOLD, ...below] : open;
  }, [open, done, isFolded, selected]);
  const list = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => list.current,
    estimateSize: (n) => (rows[n] === FOLD ? FOLD_HEIGHT : ROW_HEIGHT),
    getItemKey: (n) => (rows[n] === FOLD ? FOLD : rows[n].id),
    overscan: 8,
  });
  const first = selected[0];
  const firstAt = useMemo(() => rows.findIndex((f) => f !== FOLD && f.id === first), [rows, first]);
  useEffect(() => virtual.measure(), [rows, virtual]);
  useEffect(() => {
    if (firstAt >= 0) virtual.scrollToIndex(firstAt, { align: 'auto' });
  }, [firstAt, virtual]);
  const openOnes = useMemo(() => faults.filter((f) => f.state === 'open'), [faults]);
  const left = useMemo(
    () =>
      minutesForAll(
        openOnes.map((f) => f.kind),
        clock.log,
      ),
    [openOnes, clock.log],
  );
  const { longSideMm, distanceMm } = viewing;
  const mmOf = useMemo(() => {
    const long = Math.max(width, height);
    return (px: number) => atDelivery(px, long, { longSideMm });
  }, [width, height, longSideMm]);
  const isTiny = useCallback(
    (fault: Fault) => minutesOfArc(mmOf(sizeOfFault(fault, state)), distanceMm) < RESOLVED,
    [mmOf, distanceMm, state],
  );
  const seen = useMemo(() => openOnes.filter((f) => !isTiny(f)).length, [openOnes, isTiny]);
  const { kinds, states } = choices;
  return (
    <List aria-label="Worklist">
      <header>
        <h2>Worklist</h2>
        <span className="mono quiet">
          {openOnes.length} of {faults.length} open
        </span>
      </header>
      {faults.length > 0 && (
        <>
          <div className="plan">
            <Select
              aria-label="Order of the worklist"
              value={props.order}
              onChange={(e) => props.onOrder(e.target.value as Order)}
            >
              <option value="work">in order</option>
              <option value="number">by number</option>
            </Select>
            <Select
              aria-label="Rows that are shown"
              value={shown}
              onChange={(e) => props.onShown(e.target.value as Shown)}
            >
              <option value="all">all</option>
              <optgroup label="State">
                {states.map((s) => (
                  <option key={s} value={s}>
                    {STATE_WORDS[s]}
                  </option>
                ))}
              </optgroup>
              <optgroup label="Kind">
                {kinds.map((k) => (
                  <option key={k} value={k}>
                    {kindFacts(k).plural.toLowerCase()}
                  </option>
                ))}
              </optgroup>
            </Select>
          </div>
          <p
            className="time mono quiet"
            title={`Time spent on this picture; left for what is open, most likely ${duration(left.low)} to ${duration(left.high)}${left.from ? `, from your own times` : ', from usual figures'}`}
          >
            {duration(clock.spentMinutes)} spent, {openOnes.length ? `${duration(left.minutes)} left` : 'none left'}
          </p>
        </>
      )}
      <Waiting state={state} />
      {seen < openOnes.length && (
        <p className="time quiet">
          {seen} of {openOnes.length} open can be seen at delivery
        </p>
      )}
      {faults.length === 0 ? (
        <div className="empty">
          <p>Nothing is marked yet.</p>
          <p>
            <Link to={toStage('Survey', { pictureId: state.picture.id })}>Survey</Link> finds faults by itself. Or
            choose <b>Mark</b> above the picture and draw over what should go: each mark becomes a row here.
          </p>
        </div>
      ) : (
        <div className="rows" ref={list}>
          <ol style={{ height: virtual.getTotalSize() }}>
            {virtual.getVirtualItems().map(({ index, start }) => {
              const fault = rows[index];
              if (fault === FOLD)
                return (
                  <li key={FOLD} className="fold" style={{ transform: `translateY(${start}px)` }}>
                    <button aria-expanded={!isFolded} disabled={open.length === 0} onClick={() => fold(!folded)}>
                      {isFolded ? <ChevronRight size={14} aria-hidden /> : <ChevronDown size={14} aria-hidden />}
                      {done.length} done with
                    </button>
                  </li>
                );
              const size = sizeOfFault(fault, state);
              return (
                <FaultRow
                  key={fault.id}
                  fault={fault}
                  place={index + 1}
                  of={faults.length}
                  start={start}
                  size={size}
                  mm={mmOf(size)}
                  look={thumbnailOf(fault, state)}
                  on={selected.includes(fault.id)}
                  tiny={isTiny(fault)}
                  again={again.get(fault.id)}
                  standing={standing.get(fault.id)?.word}
                  message={standing.get(fault.id)?.message}
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
