import type { ReactNode } from 'react';
import {
  Button as AriaButton,
  Checkbox as AriaCheckbox,
  ToggleButton as AriaToggleButton,
  ToggleButtonGroup as AriaToggleButtonGroup,
  type ButtonProps,
  type CheckboxProps,
  type ToggleButtonProps,
} from 'react-aria-components';
import styled, { css } from 'styled-components';
import { theme } from '../theme.ts';

const face = css`
  display: inline-flex;
  align-items: center;
  justify-content: center;
  gap: 6px;
  min-height: 30px;
  padding: 3px 11px;
  border: 1px solid ${theme.rule};
  border-radius: 3px;
  background: ${theme.sheet};
  cursor: pointer;
  white-space: nowrap;
  &[data-hovered] {
    border-color: ${theme.ruleStrong};
  }
  &[data-pressed] {
    background: ${theme.sunk};
  }
  &[data-disabled] {
    color: #8b8a84;
    background: ${theme.paper};
    cursor: default;
    border-color: ${theme.rule};
  }
  &[data-focus-visible] {
    outline: 2px solid ${theme.accent};
    outline-offset: 1px;
  }
  svg {
    flex: none;
  }
`;

const ButtonFace = styled(AriaButton)<{ $kind: 'plain' | 'main' | 'quiet' | 'danger' }>`
  ${face}
  ${({ $kind }) =>
    $kind === 'main' &&
    css`
      background: ${theme.accent};
      border-color: ${theme.accent};
      color: #fff;
      font-weight: 600;
      &[data-hovered] {
        background: ${theme.accentDark};
        border-color: ${theme.accentDark};
      }
      &[data-pressed] {
        background: ${theme.accentDark};
      }
      &[data-disabled] {
        background: #c9d6d4;
        border-color: #c9d6d4;
        color: #4b5a58;
      }
    `}
  ${({ $kind }) =>
    $kind === 'quiet' &&
    css`
      border-color: transparent;
      background: transparent;
      padding: 3px 7px;
      &[data-hovered] {
        background: ${theme.sunk};
        border-color: transparent;
      }
      &[data-disabled] {
        background: transparent;
        border-color: transparent;
      }
    `}
  ${({ $kind }) =>
    $kind === 'danger' &&
    css`
      color: ${theme.bad};
    `}
`;

/** A button in words. `main` is the one next step of a place. */
export function Button({ kind = 'plain', ...props }: ButtonProps & { kind?: 'plain' | 'main' | 'quiet' | 'danger' }) {
  return <ButtonFace $kind={kind} {...props} />;
}

export const Toggle = styled(AriaToggleButton)<ToggleButtonProps>`
  ${face}
  &[data-selected] {
    background: ${theme.accentTint};
    border-color: ${theme.accent};
    color: ${theme.accentDark};
    font-weight: 600;
  }
`;

/** A row of alternatives, joined into one strip. */
export const Strip = styled(AriaToggleButtonGroup)`
  display: inline-flex;
  > button {
    border-radius: 0;
    margin-left: -1px;
    padding: 3px 9px;
  }
  > button:first-child {
    border-radius: 3px 0 0 3px;
    margin-left: 0;
  }
  > button:last-child {
    border-radius: 0 3px 3px 0;
  }
  > button[data-selected] {
    z-index: 1;
    position: relative;
  }
`;

const CheckFace = styled(AriaCheckbox)`
  display: inline-flex;
  align-items: center;
  gap: 7px;
  cursor: pointer;
  font-size: 13px;
  .box {
    width: 16px;
    height: 16px;
    flex: none;
    border: 1.5px solid ${theme.ruleStrong};
    border-radius: 2px;
    background: ${theme.sheet};
    display: grid;
    place-items: center;
  }
  &[data-selected] .box {
    background: ${theme.accent};
    border-color: ${theme.accent};
  }
  &[data-focus-visible] .box {
    outline: 2px solid ${theme.accent};
    outline-offset: 2px;
  }
  path {
    stroke: #fff;
    stroke-width: 2.2;
    fill: none;
  }
`;

export function Check({ children, ...props }: Omit<CheckboxProps, 'children'> & { children?: ReactNode }) {
  return (
    <CheckFace {...props}>
      <span className="box">
        <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden>
          {props.isSelected && <path d="M1.5 6.5 4.5 9.5 10.5 2.5" />}
        </svg>
      </span>
      {children}
    </CheckFace>
  );
}

export const Field = styled.label`
  display: grid;
  gap: 4px;
  font-size: 13px;
  color: ${theme.quiet};
  input,
  textarea,
  select {
    width: 100%;
    padding: 6px 9px;
    border: 1px solid ${theme.ruleStrong};
    border-radius: 3px;
    background: ${theme.sheet};
    color: ${theme.ink};
    font-size: 14px;
  }
  textarea {
    resize: vertical;
    min-height: 64px;
  }
`;

export const Select = styled.select`
  padding: 3px 6px;
  border: 1px solid ${theme.rule};
  border-radius: 3px;
  background: ${theme.sheet};
  font-size: 13px;
  min-height: 28px;
  min-width: 0;
  max-width: 100%;
`;
