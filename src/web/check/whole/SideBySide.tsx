import { useEffect, useRef } from 'react';
import styled from 'styled-components';
import type { PictureState } from '../../../contract/api.ts';
import { theme } from '../../theme.ts';
import { usePictureViewer, type ViewerHandle } from '../../viewer/usePictureViewer.ts';
import { Sheet } from './sheet.ts';

const Two = styled.div`
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 2px;
  min-height: 0;
  background: ${theme.rule};
  figure {
    margin: 0;
    display: grid;
    grid-template-rows: minmax(0, 1fr) auto;
    min-height: 0;
    min-width: 0;
  }
  figcaption {
    font-size: 13px;
    color: ${theme.quiet};
    padding: 5px 14px;
    background: ${theme.sheet};
  }
`;

/** Lets two views show the same place at the same size, whichever is moved. @returns what lets them go again */
function linked(one: ViewerHandle, two: ViewerHandle): () => void {
  let following = false;
  const follow = (leader: ViewerHandle, other: ViewerHandle) => () => {
    // The other one moves because of this one: it must not lead in turn.
    if (following) return;
    following = true;
    const { viewport } = leader.viewer;
    other.viewer.viewport.zoomTo(viewport.getZoom(true), undefined, true);
    other.viewer.viewport.panTo(viewport.getCenter(true), true);
    following = false;
  };
  const [first, second] = [follow(one, two), follow(two, one)];
  one.viewer.addHandler('viewport-change', first);
  two.viewer.addHandler('viewport-change', second);
  return () => {
    one.viewer.removeHandler('viewport-change', first);
    two.viewer.removeHandler('viewport-change', second);
  };
}

/** The picture as it came and as it is repaired, moved together. */
export function SideBySide({ state }: { state: PictureState }) {
  const [left, right] = [useRef<HTMLDivElement>(null), useRef<HTMLDivElement>(null)];
  const before = usePictureViewer(left, state, { compare: 'before' });
  const after = usePictureViewer(right, state, {});
  useEffect(() => (before && after ? linked(before, after) : undefined), [before, after]);
  return (
    <Two>
      <figure>
        <Sheet>
          <div ref={left} className="osd" role="img" aria-label="The picture as it came in" />
        </Sheet>
        <figcaption>As it came in</figcaption>
      </figure>
      <figure>
        <Sheet>
          <div ref={right} className="osd" role="img" aria-label="The picture with its repairs" />
        </Sheet>
        <figcaption>With its repairs</figcaption>
      </figure>
    </Two>
  );
}
