import { memo } from 'react';
import styled from 'styled-components';
import type { Fault } from '../../contract/document.ts';
import { millimetres } from '../lib/format.ts';
import { theme } from '../theme.ts';
import { Check } from '../ui/controls.tsx';
import type { Standing } from './rows.ts';

/** px, the same for all rows */
export const ROW_HEIGHT = 40;
const Row = styled.li<{ $on: boolean; $tiny: boolean }>`
  position: absolute;
  top: 0;
  left: 0;
  right: 0;
  height: ${ROW_HEIGHT}px;
  display: grid;
  grid-template-columns: 32px minmax(0, 1fr) auto;
  gap: 8px;
  align-items: center;
  padding: 3px 8px 3px 7px;
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
    width: 32px;
    height: 32px;
    object-fit: cover;
    background: #808080;
    display: block;
  }
  .what {
    display: grid;
    line-height: 1.25;
    min-width: 0;
    font-size: 13px;
  }
  .what b {
    font-weight: 600;
  }
  .size {
    font-size: 11px;
    color: ${theme.quiet};
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .found {
    color: ${theme.amber};
  }
`;

/** States in words, as a row says them. */
export const STATE_WORDS = { open: 'open', treated: 'treated', left: 'left', accepted: 'accepted' } as const;

/** Why a row is to be looked at again, in two words. */
const shortOf = (again: string): string => /^Look again: (.*)\.$/.exec(again)?.[1] ?? 'not sure';

interface RowProps {
  fault: Fault;
  /** its place in the list, from 1 on, and how many there are */
  place: number;
  of: number;
  /** px from the top of the list */
  start: number;
  /** px of the picture, and mm at delivery */
  size: number;
  mm: number;
  /** address of its thumbnail */
  look: string;
  on: boolean;
  tiny: boolean;
  /** what checks object to in its repair */
  again?: string;
  /** how its repairs stand where they are not done, and why those failed that did */
  standing?: Standing;
  message?: string;
  onTake(id: string, how: 'alone' | 'more' | 'less'): void;
}

/** One fault of the list. */
export const FaultRow = memo(function FaultRow({
  fault,
  place,
  of,
  start,
  size,
  mm,
  look,
  on,
  tiny,
  again,
  standing,
  message,
  onTake,
}: RowProps) {
  const treated = fault.state === 'treated' || (fault.state === 'open' && standing === 'failed');
  const looked = again && fault.state === 'treated' && !standing;
  const state = treated && standing ? standing : looked ? 'look again' : STATE_WORDS[fault.state];
  const wrong = looked || (treated && standing === 'failed');
  return (
    <Row
      $on={on}
      $tiny={tiny}
      data-id={fault.id}
      aria-posinset={place}
      aria-setsize={of}
      style={{ transform: `translateY(${start}px)` }}
    >
      <button
        aria-label={`Fault ${fault.number}, ${fault.kind}, ${state}`}
        aria-pressed={on}
        onClick={(e) => onTake(fault.id, e.shiftKey || e.ctrlKey || e.metaKey ? (on ? 'less' : 'more') : 'alone')}
      >
        <img alt="" src={look} />
        <span className="what">
          <span>
            <b>{fault.number}</b> {fault.kind}
          </span>
          <span
            className={wrong ? 'size found' : 'size mono'}
            title={message ?? again ?? `${millimetres(mm)} at delivery${tiny ? ', not to be seen there' : ''}`}
          >
            {looked ? shortOf(again) : state === 'open' ? `${size} px${tiny ? ' · not seen' : ''}` : state}
          </span>
        </span>
      </button>
      <Check
        aria-label={`Also take fault ${fault.number}`}
        isSelected={on}
        onChange={(more) => onTake(fault.id, more ? 'more' : 'less')}
      />
    </Row>
  );
});
