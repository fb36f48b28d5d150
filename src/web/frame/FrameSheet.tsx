import { useId, useRef } from 'react';
import styled from 'styled-components';
import type { PictureState } from '../../contract/api.ts';
import { VIEWS } from '../../contract/addresses.ts';
import { addressOf } from '../../contract/endpoint.ts';
import type { SubjectPlace } from '../../core/frame/format.ts';
import type { Point, Shape } from '../../core/mask/shapes.ts';
import { boxOf, contains, union } from '../../core/raster/raster.ts';
import { cornersOf, useTwoPlaces } from '../lib/two-places.ts';
import { canvasOfState } from '../lib/canvas.ts';
import { stampOf } from '../lib/stamp.ts';
import { theme } from '../theme.ts';
import { DrawnOut, gapsOf, isDrawnOut } from './DrawnOut.tsx';
import { guidePath, type GuideLines } from './guide-lines.ts';
import type { FillArea, FillAreas } from './useFillAreas.ts';
import type { Looked } from './useWayViews.ts';
import type { Way } from './ways.ts';

const Drawing = styled.svg`
  display: block;
  width: 100%;
  height: 100%;
  background: #808080;
  &[data-drawing='true'] {
    cursor: crosshair;
    touch-action: none;
  }
`;

/** What is drawn on the sheet. */
export type Drawn = 'subject' | 'keep' | 'leave' | 'line' | 'strip' | FillArea | null;

/** What is drawn as a line; all else is a box. */
export const LINES: readonly Drawn[] = ['line', 'strip', 'guide'];

const HOW = {
  line: 'Draw along what should be level; or move the cross by arrows and set both ends with Space',
  strip: 'Draw the lower edge of the strip; or move the cross by arrows and set both ends with Space',
  subject: 'Draw a box around the subject; or move the cross by arrows and set two corners with Space',
  keep: 'Draw a box over what is part of it; or move the cross by arrows and set two corners with Space',
  leave: 'Draw a box over what is none of it; or move the cross by arrows and set two corners with Space',
  donor: 'Draw a box that the fill may take from; or move the cross by arrows and set two corners with Space',
  barred: 'Draw a box that the fill must not take from; or move the cross by arrows and set two corners with Space',
  guide: 'Draw along an edge, out to where it goes on; or move the cross by arrows and set both ends with Space',
};

/** Share of its longer side that is left free around what is shown. */
const FREE = 0.04;

/** What is being drawn, and the cross. */
function Marks(props: { draws: Drawn; ends: [Point, Point] | null; cross: Point | null; line: number }) {
  const { draws, ends, cross, line } = props;
  const drawn = ends && cornersOf(...ends);
  return (
    <>
      {cross && !ends && (
        <path
          d={`M${cross[0] - 8 * line} ${cross[1]}h${16 * line}M${cross[0]} ${cross[1] - 8 * line}v${16 * line}`}
          stroke="#fff"
          strokeWidth={line}
        />
      )}
      {ends && LINES.includes(draws) && (
        <line
          x1={ends[0][0]}
          y1={ends[0][1]}
          x2={ends[1][0]}
          y2={ends[1][1]}
          stroke={theme.accent}
          strokeWidth={1.5 * line}
        />
      )}
      {drawn && !LINES.includes(draws) && (
        <rect {...drawn} fill="none" stroke={theme.accent} strokeWidth={1.5 * line} />
      )}
    </>
  );
}

/** How much of the hatching stays over a gap that is being filled. */
const MADE = 0.25;

/** What there is of the picture: as it would be where that was tried, else as it stands, with what is still to come hatched. */
function Pixels(props: Parameters<typeof FrameSheet>[0] & { href: string; hatched: string }) {
  const { state, way, degrees, subject, looked, href, hatched } = props;
  const source = boxOf(state.picture.facts);
  const canvas = canvasOfState(state);
  const tried = looked && 'picture' in looked ? looked.picture : null;
  return (
    <>
      {!contains(canvas, source) && <rect {...source} fill="#9a9a9a" />}
      {tried ? (
        <image href={tried} {...(way.set.canvas ?? way.seen)} preserveAspectRatio="none" />
      ) : isDrawnOut(state, way, degrees) ? (
        <DrawnOut state={state} href={href} onto={way.seen} guard={subject && subject.box} />
      ) : (
        <>
          <image href={href} {...canvas} preserveAspectRatio="none" />
          {gapsOf(state).map(({ isMade, ...b }) => (
            // What is being made is sketched beneath.
            <rect key={`${b.x} ${b.y}`} {...b} fill={hatched} fillOpacity={isMade ? MADE : 1} />
          ))}
        </>
      )}
    </>
  );
}

/** The outline of the subject. */
const Outline = ({ marked, line }: { marked: readonly Shape[]; line: number }) => (
  <path
    d={marked.map(pathOf).join('')}
    fill="none"
    stroke={theme.accent}
    strokeWidth={line}
    strokeDasharray={`${4 * line} ${3 * line}`}
  />
);

/** Areas and lines for what is filled: those that lend whole, those that must not dotted. */
const AreasDrawn = ({ areas: { donorArea, barred, edges }, line }: { areas: FillAreas; line: number }) => (
  <g fill="none" strokeWidth={1.5 * line}>
    <path d={donorArea.map(pathOf).join('')} stroke={theme.accent} />
    <path d={barred.map(pathOf).join('')} stroke={theme.amber} strokeDasharray={`${line} ${2 * line}`} />
    <path d={edges.map(pathOf).join('')} stroke="#fff" />
  </g>
);

/** A shape as a path. */
function pathOf(shape: Shape): string {
  if (shape.kind === 'strand') return `M${shape.points.map(([x, y]) => `${x.toFixed(1)} ${y.toFixed(1)}`).join('L')}`;
  if (shape.kind === 'box') return `M${shape.x} ${shape.y}h${shape.width}v${shape.height}h${-shape.width}z`;
  return `M${shape.points.map(([x, y]) => `${x.toFixed(1)} ${y.toFixed(1)}`).join('L')}z`;
}

/**
 * The picture with the frame that it would have: what is added hatched, what is cut dimmed. With something to
 * be drawn, two places are set by dragging, or by the arrow keys and Space.
 */
export function FrameSheet(props: {
  state: PictureState;
  way: Way;
  degrees: number;
  subject: SubjectPlace | null;
  /** the corners of a strip that is being drawn */
  strip?: ReadonlyArray<Point>;
  /** its outline */
  marked: readonly Shape[];
  /** areas and lines for what is filled */
  areas?: FillAreas;
  /** how the way would look, where that was tried */
  looked?: Looked;
  /** what lies over it to see what stands where */
  lines?: GuideLines;
  /** plain, as a small preview */
  small?: boolean;
  draws?: Drawn;
  onDrawn?(from: Point, to: Point): void;
}) {
  const { state, way, degrees, subject, small, lines, draws = null } = props;
  const pattern = useId();
  const svg = useRef<SVGSVGElement>(null);
  const { facts, id } = state.picture;
  const source = boxOf(facts);
  const canvas = canvasOfState(state);
  const all = union(union(source, canvas), way.seen);
  const long = Math.max(all.width, all.height);
  const free = FREE * long;
  const { seen } = way;
  const line = long / (small ? 90 : 340);
  const middle = `${source.width / 2} ${source.height / 2}`;
  const { ends, cross, handlers } = useTwoPlaces(
    svg,
    source,
    long,
    3 * line,
    draws !== null,
    props.onDrawn,
    !LINES.includes(draws),
  );
  const src = addressOf(VIEWS.closeUp, { id }, { side: small ? 320 : 1024, v: stampOf(state.pixels) });
  return (
    <Drawing
      ref={svg}
      viewBox={`${all.x - free} ${all.y - free} ${all.width + 2 * free} ${all.height + 2 * free}`}
      data-drawing={draws !== null}
      role={draws ? 'application' : 'img'}
      aria-label={draws ? HOW[draws] : `The picture in its frame of ${seen.width} × ${seen.height} px`}
      tabIndex={draws ? 0 : undefined}
      {...handlers}
    >
      <defs>
        <pattern
          id={pattern}
          width={6 * line}
          height={6 * line}
          patternUnits="userSpaceOnUse"
          patternTransform="rotate(45)"
        >
          <rect width={6 * line} height={6 * line} fill={theme.sheet} />
          <rect width={line} height={6 * line} fill={theme.ruleStrong} />
        </pattern>
      </defs>
      <rect {...seen} fill={`url(#${pattern})`} />
      <g transform={degrees ? `rotate(${-degrees} ${middle})` : undefined}>
        <Pixels {...props} href={src} hatched={`url(#${pattern})`} />
        <Outline marked={props.marked} line={line} />
        {props.areas && <AreasDrawn areas={props.areas} line={line} />}
        {props.strip && (
          <polygon
            points={props.strip.map((p) => p.join()).join(' ')}
            fill="none"
            stroke={theme.accent}
            strokeWidth={line}
          />
        )}
      </g>
      <path
        fillRule="evenodd"
        fill="#606060"
        fillOpacity={0.72}
        d={`M${all.x - free} ${all.y - free}h${all.width + 2 * free}v${all.height + 2 * free}h${-all.width - 2 * free}z M${seen.x} ${seen.y}h${seen.width}v${seen.height}h${-seen.width}z`}
      />
      <rect {...seen} fill="none" stroke="#fff" strokeWidth={1.5 * line} />
      {lines && <path d={guidePath(seen, lines)} stroke="#fff" strokeOpacity={0.75} strokeWidth={line / 2} />}
      {subject && !degrees && (
        <circle
          cx={subject.focus[0]}
          cy={subject.focus[1]}
          r={3 * line}
          fill={theme.accent}
          stroke="#fff"
          strokeWidth={line}
        />
      )}
      {draws && <Marks draws={draws} ends={ends} cross={cross} line={line} />}
    </Drawing>
  );
}
