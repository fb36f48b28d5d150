import { useEffect, useRef, useState } from 'react';
import styled from 'styled-components';
import type { PictureState } from '../../../contract/api.ts';
import { canvasOfState } from '../../lib/canvas.ts';
import type { Edits } from '../../lib/edits.ts';
import { duration } from '../../lib/format.ts';
import { useLatest } from '../../lib/latest.ts';
import { theme } from '../../theme.ts';
import { Button } from '../../ui/controls.tsx';
import { usePictureViewer } from '../../viewer/usePictureViewer.ts';
import { flightOver, placeOn } from '../flight.ts';
import { Sheet } from './sheet.ts';
import { useFlight } from './useFlight.ts';

const Frame = styled.div`
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto;
  min-height: 0;
  .middle {
    position: absolute;
    left: 50%;
    top: 50%;
    width: 60px;
    height: 60px;
    margin: -30px;
    border: 1px solid #fff;
    outline: 1px solid ${theme.ink};
    border-radius: 50%;
    opacity: 0.55;
    pointer-events: none;
  }
  footer {
    display: flex;
    gap: 12px;
    align-items: center;
    padding: 7px 14px;
    border-top: 1px solid ${theme.rule};
    background: ${theme.sheet};
    font-size: 13px;
  }
  progress {
    width: 160px;
    height: 6px;
  }
`;

/** px across of what is marked on the way. */
const MARK = 60;

/** Pans the whole picture in rows at 100 %, with a key that pauses and one that marks. */
export function FlyOver({ state, edits }: { state: PictureState; edits: Edits }) {
  const host = useRef<HTMLDivElement>(null);
  const handle = usePictureViewer(host, state, { still: true });
  const [view, setView] = useState({ width: 900, height: 600 });
  const [marked, setMarked] = useState<string | null>(null);
  const flight = flightOver(canvasOfState(state), view);
  const { flown, flying, over, secondsLeft, pause, toggle, faster } = useFlight(flight);
  const { x, y, row } = placeOn(flight, flown);

  useEffect(() => {
    const element = host.current;
    if (!handle || !element) return;
    const watch = new ResizeObserver(() => setView({ width: element.clientWidth, height: element.clientHeight }));
    watch.observe(element);
    return () => watch.disconnect();
  }, [handle]);
  useEffect(() => handle?.centreOn(x, y, 1), [handle, x, y]);

  const mark = () => {
    pause();
    const shapes = [{ op: 'add' as const, kind: 'brush' as const, points: [[x, y] as [number, number]], size: MARK }];
    void edits.edit({ type: 'addFault', kind: 'object', shapes });
    setMarked(`Marked at ${Math.round(x)}, ${Math.round(y)}.`);
  };
  const keys = useLatest((e: KeyboardEvent) => {
    if (e.ctrlKey || e.metaKey || e.altKey || e.target instanceof HTMLInputElement) return;
    // A button that has the focus is pressed by the space bar itself.
    if (e.key === ' ' && e.target instanceof HTMLButtonElement) return;
    const act = { ' ': toggle, m: mark, '+': () => faster(1), '-': () => faster(-1) }[e.key.toLowerCase()];
    if (!act) return;
    e.preventDefault();
    act();
  });
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => keys.current(e);
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [keys]);
  const takeBack = () => {
    void edits.step('undo');
    setMarked(null);
  };

  return (
    <Frame>
      <Sheet>
        <div ref={host} className="osd" role="img" aria-label="The picture at 100 %" />
        <div className="middle" aria-hidden />
      </Sheet>
      <footer>
        <Button kind="main" onPress={toggle}>
          {over ? 'Once more' : flying ? 'Pause' : 'Fly on'}
        </Button>
        <Button onPress={mark}>Mark the middle</Button>
        <progress max={flight.length || 1} value={flown} aria-label="How far it has flown" />
        <span className="mono">
          row {row + 1} of {flight.rows.length}
          {over ? ' · all was seen' : ` · ${duration(secondsLeft / 60)} left`}
        </span>
        {marked && (
          <>
            <span role="status">{marked}</span>
            <Button kind="quiet" onPress={takeBack}>
              Take it back
            </Button>
          </>
        )}
      </footer>
    </Frame>
  );
}
