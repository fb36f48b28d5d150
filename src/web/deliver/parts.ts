import styled from 'styled-components';
import { theme } from '../theme.ts';

/** A row a file. */
export const Rows = styled.div`
  border-top: 1px solid ${theme.rule};
  > section {
    display: grid;
    grid-template-columns: 168px minmax(0, 1fr) auto;
    gap: 2px 16px;
    align-items: center;
    min-height: 44px;
    padding: 6px 0;
    border-bottom: 1px solid ${theme.rule};
  }
  h3 {
    font-size: 14px;
    margin: 0;
  }
  p {
    font-size: 13px;
    color: ${theme.quiet};
    margin: 0;
  }
`;

/** Something that must be said before anything leaves. */
export const Warning = styled.div`
  padding: 11px 14px 12px;
  border: 1px solid ${theme.amber};
  background: ${theme.amberTint};
  display: grid;
  gap: 10px;
  p {
    margin: 0;
  }
  div {
    display: flex;
    gap: 8px;
  }
`;

export const Line = styled.div`
  display: flex;
  gap: 10px;
  align-items: center;
  flex-wrap: wrap;
`;
