import { useEffect, useRef } from 'react';
import styled from 'styled-components';
import type { PictureState } from '../../../contract/api.ts';
import type { Repair } from '../../../contract/document.ts';
import { SEEN, type Finding } from '../../../core/check/finding.ts';
import { REMEDY_WORDS, verdictOf } from '../../../core/check/words.ts';
import type { Viewing } from '../../../core/frame/visibility.ts';
import { thumbnailFrame, type ThumbnailFrame } from '../../../core/plan/cover.ts';
import { boxAround, type Box } from '../../../core/raster/raster.ts';
import { VIEWS } from '../../../contract/addresses.ts';
import { addressOf } from '../../../contract/endpoint.ts';
import { pieceOf } from '../../lib/api.ts';
import { canvasOfState } from '../../lib/canvas.ts';
import { findingsOfTry } from '../../lib/findings.ts';
import type { Edits } from '../../lib/edits.ts';
import { theme } from '../../theme.ts';
import { Button } from '../../ui/controls.tsx';
import type { Preview } from '../../viewer/CloseUp.tsx';
import type { FillAreas } from '../store.ts';
import { factsOf } from '../../worklist/rows.ts';

export const Tries = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 5px;
  button {
    border: 2px solid transparent;
    padding: 0;
    background: none;
    cursor: pointer;
    display: grid;
    gap: 1px;
    text-align: left;
    width: 100%;
    font-size: 11.5px;
    line-height: 1.2;
    min-height: 0;
  }
  button > span:not(.look) {
    padding: 1px 3px;
  }
  .found {
    color: ${theme.amber};
  }
  .verdict {
    font-size: 11.5px;
    padding: 1px 5px;
  }
  button.verdict {
    text-decoration: underline;
  }
  button[aria-pressed='true'] {
    border-color: ${theme.accent};
  }
  .look {
    width: 100%;
    aspect-ratio: 88 / 64;
    background: #808080;
    display: block;
  }
  .look img {
    width: 100%;
    height: 100%;
    display: block;
    object-fit: cover;
  }
  .none {
    display: grid;
    place-items: center;
    color: #fff;
    background: #6b6b6b;
  }
`;

/** Names of the ways of filling. */
export const STYLE_WORDS: Record<string, string> = {
  faithful: 'with grain',
  smooth: 'smooth',
  straight: 'edges straight on',
  textured: 'from donors',
  first: 'layout',
  second: 'another layout',
  third: 'a third layout',
  near: 'close donors',
  far: 'far donors',
  lines: 'lines first',
  auto: 'proposed',
};

/** Middle and side of a piece of the picture that shows all of a box. */
const lookAt = (box: Box): ThumbnailFrame => ({
  middle: [box.x + box.width / 2, box.y + box.height / 2],
  side: Math.max(24, 1.25 * Math.max(box.width, box.height)),
});

/** Says that a repair was made by an earlier version of its method, and makes it, or all such, anew. */
export function Earlier({ state, repair, edits }: { state: PictureState; repair: Repair; edits: Edits }) {
  const earlier = state.statuses.filter((s) => s.earlier).map((s) => s.id);
  if (!earlier.includes(repair.id)) return null;
  const renew = (ids: string[]) => void edits.edit({ type: 'renew', ids });
  return (
    <div className="row">
      <span className="reason wide">Made by an earlier version of its method; it stays as it is.</span>
      <Button onPress={() => renew([repair.id])}>Make anew</Button>
      {earlier.length > 1 && <Button onPress={() => renew(earlier)}>Make all {earlier.length} anew</Button>}
    </div>
  );
}

/** Says what of what is painted the next fill heeds. */
export function AreasNote({ areas }: { areas: FillAreas }) {
  const notes = [
    areas.donor.length > 0 && 'Donors only from the donor area.',
    areas.barred.length > 0 && 'Nothing from the barred area.',
    areas.edges.length > 0 && 'Edges run on as drawn.',
    areas.grounds.length > 0 && 'Grounds reach as far as dragged.',
  ].filter(Boolean);
  return notes.length ? <p className="reason">{notes.join(' ')}</p> : null;
}

/** A try, small, with the place around it; shown on the picture while pointed at. */
export function TryThumb({
  state,
  repair,
  tryId,
  n,
  viewing,
  onHover,
  onLook,
  onChoose,
}: {
  state: PictureState;
  viewing: Viewing;
  repair: Repair;
  tryId: string;
  n: number;
  onHover(p: Preview | null): void;
  /** shows a place of it beside the picture as it came */
  onLook(finding: Finding | null): void;
  onChoose(): void;
}) {
  const own = state.statuses.find((s) => s.id === repair.id);
  const status = own?.tries[tryId];
  const isChosen = repair.chosen === tryId;
  const row = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (isChosen) row.current?.scrollIntoView({ block: 'nearest' });
  }, [isChosen]);
  const { spec, remedy } = repair.tries.find((t) => t.id === tryId)!;
  const words = remedy ? REMEDY_WORDS[remedy] : STYLE_WORDS[spec.method === 'fill' ? spec.style : spec.method];
  const canvas = canvasOfState(state);
  if (!status) {
    return (
      <li>
        <button disabled aria-label={`Try ${n}, being made`}>
          <span className="look none">working…</span>
          <span className="quiet">
            {n} {words}
          </span>
        </button>
      </li>
    );
  }
  const { box, key } = status;
  const fault = state.document.faults.find((f) => f.id === repair.faultIds[0]);
  const look = repair.faultIds.length === 1 && fault ? thumbnailFrame(factsOf(fault, state)) : lookAt(box);
  const width = Math.min(canvas.width, canvas.height, 900, look.side);
  const piece = boxAround(look.middle, { width, height: (width * 64) / 88 }, canvas);
  const names = { id: state.picture.id, key };
  const findings = findingsOfTry(own, tryId, state, viewing);
  const verdict = findings && (verdictOf(findings) ?? 'clean');
  const url = addressOf(VIEWS.rendering, names);
  const preview: Preview = { url, box };
  return (
    <li ref={row}>
      <button
        aria-pressed={isChosen}
        aria-label={`Try ${n}, ${words}${isChosen ? ', chosen' : ''}${status.ready ? '' : ', a sketch, being made'}${verdict ? `; check: ${verdict}` : ''}`}
        onPointerEnter={() => onHover(preview)}
        onPointerLeave={() => onHover(null)}
        onFocus={() => onHover(preview)}
        onBlur={() => onHover(null)}
        onClick={onChoose}
      >
        <span className="look">
          <img src={addressOf(VIEWS.tryCloseUp, names, pieceOf(piece, state.pixels))} alt="" />
        </span>
        <span className={status.ready ? undefined : 'quiet'}>
          {n} {status.ready ? words : 'sketch…'}
        </span>
      </button>
      {verdict === 'clean' && <span className="verdict quiet">{verdict}</span>}
      {verdict && verdict !== 'clean' && (
        <button
          className="verdict found"
          aria-label={`Show where: try ${n}, ${verdict}`}
          onClick={() => onLook(findings.find((f) => f.severity >= SEEN) ?? null)}
        >
          {verdict}
        </button>
      )}
    </li>
  );
}
