import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import styled from 'styled-components';
import type { Point } from '../../core/mask/shapes.ts';
import { PROFILES, type ProfileName } from '../../core/repair/strip/profile.ts';
import { theme } from '../theme.ts';
import { Button, Select, Toggle } from '../ui/controls.tsx';
import { Slider } from '../ui/sliders.tsx';
import type { Framed } from './useFraming.ts';
import { HANDLES, type StripDrawn } from './useStrip.ts';

const Curve = styled.svg`
  width: 100%;
  height: 120px;
  background: ${theme.paper};
  border: 1px solid ${theme.rule};
  touch-action: none;
`;

/** How deep a free profile may be, in shares of its height. */
const DEEPEST = 0.3;
const deep = (d: number): number => Math.round(1000 * Math.min(DEEPEST, Math.max(0, d))) / 1000;

/** A profile seen from the side, whose places are moved by dragging, or by arrows. */
function FreeProfile({ points, onChange }: { points: Point[]; onChange(points: Point[]): void }) {
  const svg = useRef<SVGSVGElement>(null);
  const [at, setAt] = useState(0);
  const move = (k: number, depth: number) => onChange(points.map((p, n): Point => (n === k ? [p[0], deep(depth)] : p)));
  const drag = (e: PointerEvent) => {
    const matrix = svg.current!.getScreenCTM()!.inverse();
    const { x, y } = new DOMPoint(e.clientX, e.clientY).matrixTransform(matrix);
    const k = Math.min(HANDLES - 1, Math.max(0, Math.round(y * (HANDLES - 1))));
    setAt(k);
    move(k, x / 2);
  };
  const onKey = (e: KeyboardEvent) => {
    if (e.key === 'ArrowDown') setAt(Math.min(HANDLES - 1, at + 1));
    else if (e.key === 'ArrowUp') setAt(Math.max(0, at - 1));
    else if (e.key === 'ArrowRight') move(at, points[at][1] + 0.01);
    else if (e.key === 'ArrowLeft') move(at, points[at][1] - 0.01);
    else return;
    e.preventDefault();
  };
  // Depths are drawn twice as large, so that they can be told apart.
  const line = points.map(([t, d]) => `${2 * d} ${t}`).join('L');
  return (
    <Curve
      ref={svg}
      viewBox="-0.05 -0.05 1 1.1"
      role="application"
      aria-label={`Profile from above to below: place ${at + 1} of ${HANDLES} stands out by ${Math.round(100 * points[at][1])} % of the height; arrows choose and move it`}
      tabIndex={0}
      onKeyDown={onKey}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        drag(e);
      }}
      onPointerMove={(e) => e.buttons > 0 && drag(e)}
    >
      <path d={`M0 0L${line}L0 1z`} fill={theme.accentTint} stroke={theme.accent} strokeWidth={0.008} />
      {points.map(([t, d], k) => (
        <circle
          key={t}
          cx={2 * d}
          cy={t}
          r={k === at ? 0.028 : 0.02}
          fill={k === at ? theme.accent : theme.sheet}
          stroke={theme.accent}
          strokeWidth={0.008}
        />
      ))}
    </Curve>
  );
}

/** Settings of a strip that is drawn. */
function Drawn({ framed, drawn }: { framed: Framed; drawn: StripDrawn }) {
  const { strip, facts } = framed;
  const most = Math.round(0.25 * facts.height);
  return (
    <>
      <Slider
        label="Height at the left"
        unit="px"
        min={4}
        max={most}
        value={Math.round(drawn.left)}
        onChange={(left) => strip.set({ left })}
      />
      <Slider
        label="Height at the right"
        unit="px"
        min={4}
        max={most}
        value={Math.round(drawn.right)}
        onChange={(right) => strip.set({ right })}
      />
      <label style={{ display: 'grid', gap: 4, fontSize: 13 }}>
        Profile
        <Select value={drawn.profile} onChange={(e) => strip.setProfile(e.target.value as StripDrawn['profile'])}>
          {(Object.keys(PROFILES) as ProfileName[]).map((name) => (
            <option key={name} value={name}>
              {name}
            </option>
          ))}
          <option value="own">drawn by hand</option>
        </Select>
      </label>
      {drawn.profile === 'own' && <FreeProfile points={drawn.own} onChange={(own) => strip.set({ own })} />}
      <Slider
        label="Relief"
        unit="%"
        min={0}
        max={100}
        value={Math.round(100 * drawn.relief)}
        onChange={(v) => strip.set({ relief: v / 100 })}
      />
      <Slider
        label="Lighter than above"
        unit="stops"
        min={-2}
        max={2}
        step={0.1}
        value={drawn.stops}
        onChange={(stops) => strip.set({ stops })}
      />
      <Slider
        label="Shadow on the floor"
        unit="%"
        min={0}
        max={100}
        value={Math.round(100 * drawn.shadow)}
        onChange={(v) => strip.set({ shadow: v / 100 })}
      />
    </>
  );
}

/** A moulded strip that hides the line between backdrop and floor. */
export function StripSettings({ framed }: { framed: Framed }) {
  const { strip, draws, setDraws, marked } = framed;
  const { drawn, isChanged, isLaid, isPast, status, tryId } = strip;
  const reason = status?.state === 'shown' && tryId ? status.tries[tryId]?.reason : undefined;
  return (
    <>
      <p className="quiet" style={{ fontSize: 13 }}>
        Hides the line between backdrop and floor
        {marked.box ? ', behind the subject.' : '. Draw around the subject to keep it before it.'}
      </p>
      <div className="row">
        <Toggle isSelected={draws === 'strip'} onChange={(on) => setDraws(on ? 'strip' : null)}>
          {drawn ? 'Draw its edge again' : 'Draw its lower edge'}
        </Toggle>
        {isLaid && (
          <Button kind="quiet" onPress={() => void strip.remove()}>
            Take it away
          </Button>
        )}
      </div>
      {drawn && <Drawn framed={framed} drawn={drawn} />}
      {(isChanged || isPast) && (
        <div className="row">
          <Button kind="main" isDisabled={marked.busy} onPress={() => void strip.lay()}>
            {!isLaid ? 'Lay the strip' : isChanged ? 'Lay it like this' : 'Lay it behind the subject again'}
          </Button>
          {isChanged && (
            <Button kind="quiet" onPress={strip.drop}>
              Not so
            </Button>
          )}
        </div>
      )}
      {isLaid && !isChanged && (
        <p className="quiet" style={{ fontSize: 13 }} role="status">
          {reason ?? status?.message ?? 'Being laid…'}
        </p>
      )}
    </>
  );
}
