import { useRef, type PointerEvent } from 'react';
import styled from 'styled-components';
import { theme } from '../theme.ts';

const Face = styled.div`
  width: 26px;
  height: 26px;
  flex: none;
  border: 1px solid ${theme.ruleStrong};
  border-radius: 50%;
  background: ${theme.sheet};
  cursor: grab;
  touch-action: none;
  svg {
    display: block;
  }
`;

/** Degrees to which the hand of the dial snaps near upright. */
const UPRIGHT = 2;

/** A dial that turns the sheet: dragged around, or by arrows; a double click puts it straight. */
export function Dial({
  angle,
  now,
  onTurn,
}: {
  angle: number;
  /** the angle at this moment, which may be ahead of what is drawn */
  now(): number;
  onTurn(angle: number): void;
}) {
  const face = useRef<HTMLDivElement>(null);
  const begun = useRef<{ pointer: number; angle: number } | null>(null);
  const pointerAngle = (e: PointerEvent) => {
    const { left, top, width, height } = face.current!.getBoundingClientRect();
    return (Math.atan2(e.clientY - top - height / 2, e.clientX - left - width / 2) * 180) / Math.PI;
  };
  const shown = Math.round(angle);
  return (
    <Face
      ref={face}
      role="slider"
      tabIndex={0}
      aria-label="Turn of the sheet"
      aria-valuemin={-180}
      aria-valuemax={180}
      aria-valuenow={shown}
      aria-valuetext={`${shown}°`}
      title={`The sheet is turned by ${shown}°. Drag around; a double click puts it straight.`}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        begun.current = { pointer: pointerAngle(e), angle: now() };
      }}
      onPointerMove={(e) => {
        if (!begun.current) return;
        const to = begun.current.angle + pointerAngle(e) - begun.current.pointer;
        onTurn(Math.abs(to) < UPRIGHT ? 0 : to);
      }}
      onPointerUp={() => (begun.current = null)}
      onPointerCancel={() => (begun.current = null)}
      onDoubleClick={() => onTurn(0)}
      onKeyDown={(e) => {
        const by = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 }[e.key];
        if (e.key === 'Home') onTurn(0);
        else if (by) onTurn(now() + by);
        else return;
        e.preventDefault();
        e.stopPropagation();
      }}
    >
      <svg width="24" height="24" viewBox="-12 -12 24 24" aria-hidden>
        <g transform={`rotate(${angle})`}>
          <rect x="-4.5" y="-3.5" width="9" height="7" fill="none" stroke={theme.quiet} />
          <path d="M0 -4V-10" stroke={theme.accent} strokeWidth="2" />
        </g>
      </svg>
    </Face>
  );
}
