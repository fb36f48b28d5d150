import styled from 'styled-components';
import { theme } from '../theme.ts';

/** Groups at the left, the contact sheet, the whole picture at the right. */
export const SurveyColumns = styled.div`
  height: 100%;
  display: grid;
  grid-template-columns: 216px minmax(0, 1fr) 300px;
  grid-template-rows: minmax(0, 1fr);
  > section {
    min-width: 0;
    min-height: 0;
    display: flex;
    flex-direction: column;
    background: ${theme.sheet};
  }
  .groups {
    border-right: 1px solid ${theme.rule};
  }
  .groups header,
  .middle header {
    display: flex;
    gap: 10px;
    align-items: center;
    padding: 8px 12px;
    border-bottom: 1px solid ${theme.rule};
    height: 56px;
    flex: none;
  }
  .groups header button {
    flex: 1;
  }
  .groups ul {
    list-style: none;
    margin: 0;
    padding: 0;
    overflow: auto;
  }
  .groups li button {
    width: 100%;
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    border: 0;
    border-left: 3px solid transparent;
    border-bottom: 1px solid ${theme.rule};
    background: none;
    padding: 9px 12px 9px 9px;
    cursor: pointer;
    text-align: left;
  }
  .groups li button[aria-pressed='true'] {
    background: ${theme.accentTint};
    border-left-color: ${theme.accent};
    font-weight: 600;
  }
  .middle header .wide {
    width: 190px;
  }
  .middle header .push {
    margin-left: auto;
  }
  .side {
    border-left: 1px solid ${theme.rule};
  }
  .side .about {
    padding: 10px 14px;
    display: grid;
    gap: 8px;
    font-size: 13px;
    overflow: auto;
  }
  dl {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 3px 10px;
    margin: 0;
  }
  dt {
    color: ${theme.quiet};
  }
  dt small {
    display: block;
    font-size: 11.5px;
    line-height: 1.25;
  }
  dd {
    margin: 0;
    text-align: right;
  }
  .steps {
    margin-top: auto;
    padding: 12px 14px;
    display: grid;
    gap: 8px;
    border-top: 1px solid ${theme.rule};
  }
  .empty {
    display: grid;
    gap: 12px;
    align-content: center;
    justify-items: center;
    height: 100%;
    text-align: center;
    padding: 30px;
  }
  .empty p {
    max-width: 430px;
  }
`;
