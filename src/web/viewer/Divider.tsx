import styled from 'styled-components';
import { theme } from '../theme.ts';

const Handle = styled.button`
  position: absolute;
  top: 0;
  bottom: 0;
  width: 24px;
  margin-left: -12px;
  cursor: ew-resize;
  border: 0;
  background: none;
  padding: 0;
  &::before {
    content: '';
    position: absolute;
    left: 11px;
    width: 2px;
    top: 0;
    bottom: 0;
    background: #fff;
    box-shadow: 0 0 0 1px ${theme.ink};
  }
  &::after {
    content: 'as it came · repaired';
    position: absolute;
    bottom: 12px;
    left: 50%;
    transform: translateX(-50%);
    background: ${theme.sheet};
    border: 1px solid ${theme.ink};
    padding: 1px 8px;
    font-size: 12px;
    white-space: nowrap;
  }
`;

/** How far it goes towards the edges, as shares of the width. */
const [LEAST, MOST] = [0.02, 0.98];
const STEP = 0.02;

/** The upright line between the picture as it came and as it is repaired; dragged, or moved by arrows. */
export function Divider({ at, onMove }: { at: number; onMove(at: number): void }) {
  const to = (share: number) => onMove(Math.min(MOST, Math.max(LEAST, share)));
  return (
    <Handle
      className="divider"
      role="slider"
      aria-label="Divider between as it came and repaired"
      aria-valuenow={Math.round(at * 100)}
      aria-valuemin={0}
      aria-valuemax={100}
      style={{ left: `${at * 100}%` }}
      onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
      onPointerMove={(e) => {
        if (!e.currentTarget.hasPointerCapture(e.pointerId)) return;
        const box = e.currentTarget.parentElement!.getBoundingClientRect();
        to((e.clientX - box.left) / box.width);
      }}
      onKeyDown={(e) => {
        const by = e.key === 'ArrowLeft' ? -STEP : e.key === 'ArrowRight' ? STEP : 0;
        if (!by) return;
        e.preventDefault();
        e.stopPropagation();
        to(at + by);
      }}
    />
  );
}
