import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import styled from 'styled-components';
import type { PictureState } from '../../contract/api.ts';
import type { SurveyFind } from '../../contract/survey.ts';
import type { Point, Shape } from '../../core/mask/shapes.ts';
import { VIEWS } from '../../contract/addresses.ts';
import { addressOf } from '../../contract/endpoint.ts';
import { arrowMove } from '../lib/arrows.ts';
import { stampOf } from '../lib/stamp.ts';
import { canvasOfState } from '../lib/canvas.ts';
import { theme } from '../theme.ts';

const Frame = styled.div<{ $ratio: number }>`
  position: relative;
  background: #808080;
  aspect-ratio: ${({ $ratio }) => $ratio};
  width: 100%;
  user-select: none;
  &[data-drawing='true'] {
    cursor: crosshair;
    touch-action: none;
  }
  img,
  svg {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    pointer-events: none;
  }
`;

/** An area on the map, as SVG points. */
const outline = (shape: Shape): string =>
  shape.kind === 'outline'
    ? shape.points.map((p) => p.join(',')).join(' ')
    : shape.kind === 'box'
      ? [
          [shape.x, shape.y],
          [shape.x + shape.width, shape.y],
          [shape.x + shape.width, shape.y + shape.height],
          [shape.x, shape.y + shape.height],
        ]
          .map((p) => p.join(','))
          .join(' ')
      : '';

/** The whole picture with the places of what was found, or with a view of what draws the eye. */
export function FindMap(props: {
  state: PictureState;
  finds: SurveyFind[];
  current: SurveyFind | undefined;
  heat: boolean;
  /** areas that were outlined for the survey */
  areas: Array<{ shape: Shape; colour: string }>;
  /** takes an outline that is drawn on the map; null when nothing is to be drawn */
  onOutline: ((shape: Shape) => void) | null;
}) {
  const { state, finds, current } = props;
  const { id } = state.picture;
  const { x: left, y: top, width, height } = canvasOfState(state);
  const [right, bottom] = [left + width, top + height];
  const long = Math.max(width, height);
  const v = stampOf(state.pixels);
  const dot = long / 190;
  const [line, setLine] = useState<Point[]>([]);
  const [cross, setCross] = useState<Point | null>(null);
  const frame = useRef<HTMLDivElement>(null);
  const drawing = props.onOutline !== null;
  const at = (e: PointerEvent): Point => {
    const r = frame.current!.getBoundingClientRect();
    return [
      Math.min(right, Math.max(left, left + ((e.clientX - r.left) / r.width) * width)),
      Math.min(bottom, Math.max(top, top + ((e.clientY - r.top) / r.height) * height)),
    ];
  };
  const finish = () => {
    const xs = line.map((p) => p[0]);
    const ys = line.map((p) => p[1]);
    const large = Math.max(...xs) - Math.min(...xs) > 4 * dot && Math.max(...ys) - Math.min(...ys) > 4 * dot;
    if (large && line.length > 5) props.onOutline?.({ op: 'add', kind: 'outline', points: line });
    setLine([]);
  };
  // By keyboard: the cross is moved by arrows, Space sets one corner of a box and then the other.
  const onKey = (e: KeyboardEvent) => {
    if (!drawing) return;
    const here: Point = cross ?? [left + width / 2, top + height / 2];
    const moved = arrowMove(e, here, long);
    if (moved) {
      e.preventDefault();
      setCross([Math.min(right, Math.max(left, moved[0])), Math.min(bottom, Math.max(top, moved[1]))]);
    } else if (e.key === ' ') {
      e.preventDefault();
      if (!line.length) return setLine([here]);
      const [a] = line;
      setLine([]);
      const box = {
        x: Math.min(a[0], here[0]),
        y: Math.min(a[1], here[1]),
        width: Math.abs(a[0] - here[0]),
        height: Math.abs(a[1] - here[1]),
      };
      if (box.width > dot && box.height > dot) props.onOutline?.({ op: 'add', kind: 'box', ...box });
    } else if (e.key === 'Escape') setLine([]);
  };
  return (
    <Frame
      ref={frame}
      $ratio={width / height}
      data-drawing={drawing}
      role={drawing ? 'application' : 'img'}
      aria-label={
        drawing
          ? 'Draw around the area; or move the cross by arrows and set two corners with Space'
          : `The whole picture with ${finds.length} places marked`
      }
      tabIndex={drawing ? 0 : undefined}
      onKeyDown={onKey}
      onPointerDown={(e) => {
        if (!drawing) return;
        e.currentTarget.setPointerCapture(e.pointerId);
        setLine([at(e)]);
      }}
      onPointerMove={(e) => drawing && e.buttons > 0 && line.length > 0 && setLine([...line, at(e)])}
      onPointerUp={() => drawing && finish()}
    >
      <img
        alt=""
        src={
          props.heat ? addressOf(VIEWS.attention, { id }, { v }) : addressOf(VIEWS.closeUp, { id }, { side: 640, v })
        }
      />
      <svg viewBox={`${left} ${top} ${width} ${height}`} aria-hidden>
        {finds.map((f) => {
          const [shape] = f.shapes;
          const paint = {
            fill: 'none',
            stroke: f.rejected ? '#fff' : theme.accent,
            strokeOpacity: f.rejected ? 0.5 : 1,
            strokeWidth: long / 420,
          };
          if (shape.kind === 'strand' || shape.kind === 'outline') {
            const points = shape.points.map((p) => p.join(',')).join(' ');
            if (f.length > 3 * dot)
              return shape.kind === 'strand' ? (
                <polyline key={f.id} points={points} {...paint} />
              ) : (
                <polygon key={f.id} points={points} {...paint} />
              );
          }
          return (
            <circle
              key={f.id}
              cx={f.box.x + f.box.width / 2}
              cy={f.box.y + f.box.height / 2}
              r={Math.max(dot, f.width)}
              {...paint}
            />
          );
        })}
        <defs>
          {props.areas.map(({ colour }, n) => (
            <pattern
              key={n}
              id={`area-${n}`}
              width={long / 60}
              height={long / 60}
              patternUnits="userSpaceOnUse"
              patternTransform="rotate(45)"
            >
              <path d={`M 0 0 V ${long / 60}`} stroke="#fff" strokeWidth={long / 190} />
              <path d={`M 0 0 V ${long / 60}`} stroke={colour} strokeWidth={long / 380} />
            </pattern>
          ))}
        </defs>
        {props.areas.map(({ shape, colour }, n) => (
          <polygon key={n} points={outline(shape)} fill={`url(#area-${n})`} stroke={colour} strokeWidth={long / 300} />
        ))}
        {drawing && line.length > 1 && (
          <polyline
            points={line.map((p) => p.join(',')).join(' ')}
            fill="none"
            stroke="#fff"
            strokeWidth={long / 200}
          />
        )}
        {drawing && cross && (
          <path
            d={`M ${cross[0] - 3 * dot} ${cross[1]} h ${6 * dot} M ${cross[0]} ${cross[1] - 3 * dot} v ${6 * dot}`}
            stroke="#fff"
            strokeWidth={long / 160}
          />
        )}
        {current && (
          <rect
            x={current.box.x - 2 * dot}
            y={current.box.y - 2 * dot}
            width={current.box.width + 4 * dot}
            height={current.box.height + 4 * dot}
            fill="none"
            stroke={theme.ink}
            strokeWidth={long / 260}
          />
        )}
      </svg>
    </Frame>
  );
}
