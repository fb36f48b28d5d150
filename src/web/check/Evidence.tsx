import styled from 'styled-components';
import type { PictureState } from '../../contract/api.ts';
import { VIEWS } from '../../contract/addresses.ts';
import { addressOf } from '../../contract/endpoint.ts';
import { boxAround, union, type Box } from '../../core/raster/raster.ts';
import { pieceOf } from '../lib/api.ts';
import { canvasOfState } from '../lib/canvas.ts';
import { stampOf } from '../lib/stamp.ts';
import { theme } from '../theme.ts';
import type { Told } from './told.ts';

const Three = styled.div`
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 10px;
  figure {
    margin: 0;
    display: grid;
    gap: 5px;
  }
  .view {
    position: relative;
    aspect-ratio: 1;
    background: #808080;
    overflow: hidden;
  }
  img,
  svg {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    display: block;
  }
  img {
    image-rendering: auto;
  }
  .evidence img {
    filter: contrast(1.6);
  }
  figcaption {
    font-size: 12.5px;
    color: ${theme.quiet};
  }
`;

/** Least side of what is shown, px, and how many times as large as the place it is. */
const LEAST = 120;
const ROOM = 2.2;
/** Side in px of a picture on screen, doubled for fine screens. */
const SIDE = 720;

/** What of the picture shows a finding with its surroundings: a square within the canvas. */
export function shownOf({ box, partner }: Pick<Told, 'box' | 'partner'>, canvas: Box): Box {
  const both = partner ? union(box, partner) : box;
  const side = Math.min(canvas.width, canvas.height, Math.max(LEAST, ROOM * Math.max(both.width, both.height)));
  return boxAround([both.x + both.width / 2, both.y + both.height / 2], { width: side, height: side }, canvas);
}

function Outline({ of, shown, dashed = false }: { of: Box; shown: Box; dashed?: boolean }) {
  const [x, y] = [of.x - shown.x, of.y - shown.y];
  const line = { x, y, width: of.width, height: of.height, fill: 'none', vectorEffect: 'non-scaling-stroke' as const };
  return (
    <>
      <rect {...line} stroke="#fff" strokeWidth={3.5} />
      <rect {...line} stroke={theme.amber} strokeWidth={2} strokeDasharray={dashed ? '5 4' : undefined} />
    </>
  );
}

/** The place of a finding before, after, and as it gives itself away, all at one zoom. */
export function Evidence({ state, told }: { state: PictureState; told: Told }) {
  const shown = shownOf(told, canvasOfState(state));
  const names = { id: state.picture.id };
  const now = addressOf(VIEWS.closeUp, names, { ...pieceOf(shown, state.pixels), side: SIDE });
  const before = addressOf(VIEWS.closeUp, names, {
    ...pieceOf(shown, state.pixels),
    side: SIDE,
    view: 'original',
    v: stampOf(state.pixels),
  });
  const { box, partner } = told;
  const middle = (b: Box) => [b.x + b.width / 2 - shown.x, b.y + b.height / 2 - shown.y];
  return (
    <Three>
      <figure>
        <div className="view">
          <img src={before} alt="The place before its repair" />
        </div>
        <figcaption>Before</figcaption>
      </figure>
      <figure>
        <div className="view">
          <img src={now} alt="The place as it is" />
        </div>
        <figcaption>After</figcaption>
      </figure>
      <figure className="evidence">
        <div className="view">
          <img src={now} alt={`The place with more contrast, ${partner ? 'both places' : 'what was found'} outlined`} />
          <svg viewBox={`0 0 ${shown.width} ${shown.height}`} aria-hidden>
            {partner && (
              <line
                x1={middle(box)[0]}
                y1={middle(box)[1]}
                x2={middle(partner)[0]}
                y2={middle(partner)[1]}
                stroke={theme.amber}
                strokeWidth={1.5}
                vectorEffect="non-scaling-stroke"
              />
            )}
            <Outline of={box} shown={shown} />
            {partner && <Outline of={partner} shown={shown} dashed />}
          </svg>
        </div>
        <figcaption>Evidence, contrast raised</figcaption>
      </figure>
    </Three>
  );
}
