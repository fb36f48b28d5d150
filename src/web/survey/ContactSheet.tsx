import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, useState, type KeyboardEvent, type PointerEvent, type RefObject } from 'react';
import { flushSync } from 'react-dom';
import styled from 'styled-components';
import type { PictureState } from '../../contract/api.ts';
import type { SurveyFind } from '../../contract/survey.ts';
import { boxAround, type Box } from '../../core/raster/raster.ts';
import { closeUpOf } from '../lib/api.ts';
import { canvasOfState } from '../lib/canvas.ts';
import { theme } from '../theme.ts';
import { cellFor } from './groups.ts';

const Sheet = styled.div`
  position: relative;
  flex: 1;
  overflow: auto;
  min-height: 0;
  background: ${theme.sunk};
  padding: 12px;
  outline-offset: -2px;
  user-select: none;
  ul {
    list-style: none;
    margin: 0;
    padding: 0;
    position: relative;
  }
  .box {
    position: absolute;
    border: 1.5px solid ${theme.accent};
    background: rgb(11 110 105 / 10%);
    pointer-events: none;
  }
`;
const GAP = 8;
/** px between cells up to which they are spread over a row. */
const MOST_GAP = 4 * GAP;
const PADDING = 12;
const Cell = styled.li<{ $state: 'open' | 'rejected' | 'taken' }>`
  position: absolute;
  top: 0;
  left: 0;
  button {
    display: block;
    width: 100%;
    height: 100%;
    padding: 0;
    border: 2px solid ${({ $state }) => ($state === 'taken' ? theme.accent : 'transparent')};
    background: #808080;
    position: relative;
    overflow: hidden;
    cursor: pointer;
  }
  button:focus-visible,
  button[data-at='true'] {
    outline: 2px solid ${theme.ink};
    outline-offset: 1px;
  }
  img {
    width: 100%;
    height: 100%;
    display: block;
    ${({ $state }) => $state === 'rejected' && 'opacity: 0.3; filter: grayscale(1);'}
  }
  svg {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
  }
  .badge {
    position: absolute;
    right: 0;
    bottom: 0;
    padding: 0 5px;
    font-size: 11px;
    background: ${theme.accent};
    color: #fff;
  }
  .unseen {
    background: ${theme.sheet};
    color: ${theme.quiet};
  }
`;

/** Width and height of an element inside its scroll bar, kept up to date. */
function useRoom(element: RefObject<HTMLElement | null>): { width: number; height: number } {
  const [room, setRoom] = useState({ width: 0, height: 0 });
  useEffect(() => {
    const e = element.current;
    if (!e) return;
    const observer = new ResizeObserver(() => setRoom({ width: e.clientWidth, height: e.clientHeight }));
    observer.observe(e);
    return () => observer.disconnect();
  }, [element]);
  return room;
}

/** Where a thumbnail of `span` px is taken, kept on the picture. */
function placeOf({ box }: SurveyFind, span: number, picture: Box) {
  const side = Math.min(span, picture.width, picture.height);
  return boxAround([box.x + box.width / 2, box.y + box.height / 2], { width: side, height: side }, picture);
}

/** Least px on the cell between an outline and what it is around. */
const BESIDE = 3;

/** A thin outline around a find in its cell, where it does not fill that. */
function Outline({ find, place, cell }: { find: SurveyFind; place: Box; cell: number }) {
  const scale = cell / place.width;
  const { x, y, width, height } = find.box;
  if (Math.min(width, height) * scale > 0.85 * cell) return null;
  const box = {
    x: (x - place.x) * scale - BESIDE,
    y: (y - place.y) * scale - BESIDE,
    width: width * scale + 2 * BESIDE,
    height: height * scale + 2 * BESIDE,
  };
  return (
    <svg viewBox={`0 0 ${cell} ${cell}`} fill="none" aria-hidden>
      <rect {...box} stroke="rgb(255 255 255 / 85%)" strokeWidth="2.6" />
      <rect {...box} stroke={theme.accent} strokeWidth="1.1" />
    </svg>
  );
}

/** Finds at equal zoom, many at a glance. A click or `X` rejects one or takes the rejection back; a box does so for many. */
export function ContactSheet(props: {
  state: PictureState;
  finds: SurveyFind[];
  span: (f: SurveyFind) => number;
  taken: Record<string, string>;
  unseen: ReadonlySet<string>;
  current: string | null;
  onCurrent(id: string | null): void;
  onDecide(ids: string[], rejected: boolean): void;
}) {
  const { state, finds, span, taken, current } = props;
  const { id } = state.picture;
  const canvas = canvasOfState(state);
  const sheet = useRef<HTMLDivElement>(null);
  const [box, setBox] = useState<{ x: number; y: number; u: number; v: number } | null>(null);
  const dragged = useRef(false);
  const room = useRoom(sheet);
  const width = room.width - 2 * PADDING;
  const cell = cellFor(finds.length, width, room.height - 2 * PADDING, GAP);
  const across = Math.max(1, Math.floor((width + GAP) / (cell + GAP)));
  /** px from one cell to the next, so that a row fills the sheet where that leaves no holes in it */
  const filling = across > 1 ? (width - cell) / (across - 1) : 0;
  const step = filling > cell + MOST_GAP ? cell + GAP : Math.max(cell + GAP, filling);
  const placeOn = (n: number) => ({ x: (n % across) * step, y: Math.floor(n / across) * (cell + GAP) });
  const rows = useVirtualizer({
    count: Math.ceil(finds.length / across),
    getScrollElement: () => sheet.current,
    estimateSize: () => cell + GAP,
    overscan: 3,
    paddingEnd: PADDING,
    scrollMargin: PADDING,
  });
  useEffect(() => rows.measure(), [cell, rows]);
  const currentAt = finds.findIndex((f) => f.id === current);
  const currentRow = currentAt < 0 ? -1 : Math.floor(currentAt / across);
  useEffect(() => {
    if (currentRow >= 0) rows.scrollToIndex(currentRow, { align: 'auto' });
  }, [currentRow, rows]);
  const at = (e: PointerEvent) => {
    const r = sheet.current!.getBoundingClientRect();
    return { x: e.clientX - r.left + sheet.current!.scrollLeft, y: e.clientY - r.top + sheet.current!.scrollTop };
  };
  const toggle = (ids: string[]) => {
    const open = ids.filter((i) => !taken[i]);
    if (!open.length) return;
    const rejected = !finds.filter((f) => open.includes(f.id)).every((f) => f.rejected);
    props.onDecide(open, rejected);
  };
  const finish = () => {
    const b = box;
    setBox(null);
    if (!b || Math.hypot(b.u - b.x, b.v - b.y) < 8) return;
    dragged.current = true;
    const [x0, x1] = [Math.min(b.x, b.u), Math.max(b.x, b.u)];
    const [y0, y1] = [Math.min(b.y, b.v), Math.max(b.y, b.v)];
    const inside = finds.filter((_, n) => {
      const { x, y } = placeOn(n);
      const [l, t] = [x + PADDING, y + PADDING];
      return l < x1 && l + cell > x0 && t < y1 && t + cell > y0;
    });
    toggle(inside.map((f) => f.id));
  };
  const onKey = (e: KeyboardEvent) => {
    const n = finds.findIndex((f) => f.id === current);
    const by = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: across, ArrowUp: -across }[e.key];
    if (by) {
      e.preventDefault();
      const to = finds[Math.min(finds.length - 1, Math.max(0, n < 0 ? 0 : n + by))];
      if (to) {
        rows.scrollToIndex(Math.floor(finds.indexOf(to) / across), { align: 'auto' });
        // The cell may only be drawn now that it is scrolled to.
        flushSync(() => props.onCurrent(to.id));
        sheet.current?.querySelector<HTMLElement>(`[data-find="${to.id}"] button`)?.focus();
      }
    } else if (e.key.toLowerCase() === 'x' && current) {
      e.preventDefault();
      toggle([current]);
    }
  };
  const shown = rows
    .getVirtualItems()
    .flatMap(({ index }) => Array.from({ length: across }, (_, c) => index * across + c))
    .filter((n) => n < finds.length);
  return (
    <Sheet
      ref={sheet}
      onKeyDown={onKey}
      onPointerDown={(e) => {
        dragged.current = false;
        if (e.button !== 0 || e.pointerType === 'touch') return;
        const p = at(e);
        setBox({ x: p.x, y: p.y, u: p.x, v: p.y });
      }}
      onPointerMove={(e) => {
        if (!box) return;
        const p = at(e);
        setBox({ ...box, u: p.x, v: p.y });
      }}
      onPointerUp={finish}
      onPointerLeave={finish}
    >
      <ul aria-label="Finds" style={{ height: rows.getTotalSize() - PADDING }}>
        {shown.map((n) => {
          const f = finds[n];
          const { x, y } = placeOn(n);
          const place = placeOf(f, span(f), canvas);
          const kind = taken[f.id] ? 'taken' : f.rejected ? 'rejected' : 'open';
          const words = { open: 'found', rejected: 'rejected', taken: 'in the worklist' }[kind];
          return (
            <Cell
              key={f.id}
              $state={kind}
              data-find={f.id}
              aria-posinset={n + 1}
              aria-setsize={finds.length}
              style={{ transform: `translate(${x}px, ${y}px)`, width: cell, height: cell }}
            >
              <button
                aria-label={`Find ${n + 1}, ${f.kind}, ${Math.round(f.width)} px, ${words}`}
                aria-pressed={kind === 'rejected'}
                data-at={current === f.id}
                tabIndex={current === f.id || (!current && n === 0) ? 0 : -1}
                draggable={false}
                onPointerEnter={() => props.onCurrent(f.id)}
                onFocus={() => props.onCurrent(f.id)}
                onClick={() => !dragged.current && toggle([f.id])}
              >
                <img alt="" draggable={false} src={closeUpOf(id, place, state.pixels, cell > 130 ? 480 : 184)} />
                {kind !== 'rejected' && <Outline find={f} place={place} cell={cell} />}
                {kind === 'rejected' && (
                  <svg viewBox="0 0 92 92" aria-hidden>
                    <path d="M8 84 84 8" stroke="#fff" strokeWidth="5" />
                    <path d="M8 84 84 8" stroke={theme.ink} strokeWidth="2.5" />
                  </svg>
                )}
                {kind === 'taken' ? (
                  <span className="badge">taken</span>
                ) : (
                  props.unseen.has(f.id) && <span className="badge unseen">not seen</span>
                )}
              </button>
            </Cell>
          );
        })}
      </ul>
      {box && Math.hypot(box.u - box.x, box.v - box.y) >= 8 && (
        <div
          className="box"
          style={{
            left: Math.min(box.x, box.u),
            top: Math.min(box.y, box.v),
            width: Math.abs(box.u - box.x),
            height: Math.abs(box.v - box.y),
          }}
        />
      )}
    </Sheet>
  );
}
