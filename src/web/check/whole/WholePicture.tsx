import { useState } from 'react';
import styled from 'styled-components';
import type { PictureState } from '../../../contract/api.ts';
import type { Edits } from '../../lib/edits.ts';
import { theme } from '../../theme.ts';
import { Strip, Toggle } from '../../ui/controls.tsx';
import { Compared } from './Compared.tsx';
import { FlyOver } from './FlyOver.tsx';
import { SideBySide } from './SideBySide.tsx';
import { VIEWS_OF_WHOLE, type WholeView } from './views.ts';

const Place = styled.section`
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
  min-height: 0;
  header {
    display: flex;
    gap: 14px;
    align-items: center;
    padding: 8px 14px;
    border-bottom: 1px solid ${theme.rule};
    background: ${theme.sheet};
  }
  header p {
    font-size: 13px;
    color: ${theme.quiet};
    margin: 0;
    min-width: 0;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
`;

/** The whole picture before and after, in one of several ways. */
export function WholePicture({ state, edits }: { state: PictureState; edits: Edits }) {
  const [view, setView] = useState<WholeView>('divider');
  return (
    <Place aria-label="Whole picture">
      <header>
        <Strip
          aria-label="How to look at it"
          selectionMode="single"
          disallowEmptySelection
          selectedKeys={[view]}
          onSelectionChange={(keys) => setView([...keys][0] as WholeView)}
        >
          {(Object.keys(VIEWS_OF_WHOLE) as WholeView[]).map((v) => (
            <Toggle key={v} id={v}>
              {VIEWS_OF_WHOLE[v].name}
            </Toggle>
          ))}
        </Strip>
        <p>{VIEWS_OF_WHOLE[view].words}</p>
      </header>
      {view === 'beside' ? (
        <SideBySide state={state} />
      ) : view === 'fly' ? (
        <FlyOver state={state} edits={edits} />
      ) : (
        <Compared state={state} view={view} />
      )}
    </Place>
  );
}
