import { ChevronDown, ChevronRight } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import styled from 'styled-components';
import { theme } from '../theme.ts';

const Part = styled.section<{ $grows?: boolean }>`
  border-top: 1px solid ${theme.rule};
  display: flex;
  flex-direction: column;
  min-height: 0;
  flex: ${({ $grows }) => ($grows ? '1 1 0' : '0 1 auto')};
  font-size: 13px;
  > header {
    flex: none;
    display: flex;
    align-items: center;
    height: 30px;
    padding: 0 6px 0 4px;
    gap: 6px;
  }
  > header > button {
    flex: 1;
    min-width: 0;
    display: flex;
    align-items: center;
    gap: 4px;
    border: 0;
    background: none;
    padding: 4px;
    cursor: pointer;
    text-align: left;
  }
  > header svg {
    flex: none;
  }
  > header h2 {
    font-size: 14px;
    white-space: nowrap;
  }
  > .body {
    padding: 2px 11px 9px;
    overflow: auto;
    display: grid;
    grid-template-columns: minmax(0, 1fr);
    gap: 6px;
    align-content: start;
    min-height: 0;
  }
`;

/** A part of the side column that folds to its heading, and stays so. */
export function Section({
  title,
  grows,
  beside,
  bare,
  children,
}: {
  title: string;
  /** takes what room is left */
  grows?: boolean;
  /** what stands beside the heading */
  beside?: ReactNode;
  /** its body has no padding of its own */
  bare?: boolean;
  children: ReactNode;
}) {
  const name = `folded ${title}`;
  const [folded, setFolded] = useState(() => localStorage.getItem(name) === 'yes');
  const fold = () => {
    localStorage.setItem(name, folded ? 'no' : 'yes');
    setFolded(!folded);
  };
  return (
    <Part aria-label={title} $grows={grows && !folded}>
      <header>
        <button aria-expanded={!folded} onClick={fold}>
          {folded ? <ChevronRight size={14} aria-hidden /> : <ChevronDown size={14} aria-hidden />}
          <h2>{title}</h2>
        </button>
        {beside}
      </header>
      {!folded && (bare ? children : <div className="body">{children}</div>)}
    </Part>
  );
}
