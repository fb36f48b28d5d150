import styled from 'styled-components';
import { Section } from '../Section.tsx';
import { isArea } from '../store.ts';
import { useBench } from '../useBench.ts';
import { AreaOptions, MarkOptions, TraceOptions } from './MarkOptions.tsx';
import { DonorOptions } from './DonorOptions.tsx';
import { BrushOptions, RevealOptions, ShadeOptions } from './BrushOptions.tsx';
import { PieceOptions } from './PieceOptions.tsx';

const Options = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 6px;
  .two {
    display: grid;
    grid-template-columns: repeat(2, minmax(0, 1fr));
    gap: 4px 12px;
    align-items: center;
  }
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 5px;
    align-items: center;
  }
  .strip > button {
    flex: 1 1 auto;
    min-width: 0;
    font-size: 12px;
    letter-spacing: -0.01em;
  }
  button {
    min-height: 26px;
    padding: 1px 7px;
    font-size: 12.5px;
  }
  select {
    min-height: 26px;
    font-size: 12.5px;
  }
`;

/** The settings of the verb in hand, always in the same place. */
export function OptionsSection() {
  const { mode } = useBench();
  if (mode === 'look') return null;
  return (
    <Section title={`${mode[0].toUpperCase()}${mode.slice(1)}`}>
      <Options>
        {mode === 'mark' && <MarkOptions />}
        {mode === 'trace' && <TraceOptions />}
        {isArea(mode) && <AreaOptions />}
        {(mode === 'copy' || mode === 'blend') && (
          <>
            <BrushOptions />
            <DonorOptions />
          </>
        )}
        {mode === 'shade' && <ShadeOptions />}
        {mode === 'reveal' && <RevealOptions />}
        {(mode === 'patch' || mode === 'transplant') && <PieceOptions />}
      </Options>
    </Section>
  );
}
