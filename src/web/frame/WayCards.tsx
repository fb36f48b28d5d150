import { useEffect, useRef } from 'react';
import { Link } from 'react-router';
import styled from 'styled-components';
import type { PictureState } from '../../contract/api.ts';
import type { Viewing } from '../../core/frame/visibility.ts';
import type { StretchWay } from '../../core/repair/spec.ts';
import { toStage } from '../lib/stages.ts';
import { theme } from '../theme.ts';
import { Button, Select } from '../ui/controls.tsx';
import { FrameSheet } from './FrameSheet.tsx';
import type { Framed } from './useFraming.ts';
import { checkedInWords, costInShort, costsOf, isTooFar, lookedInWords, WAY_NAMES } from './way-words.ts';
import type { Way } from './ways.ts';

const Ways = styled.div`
  background: ${theme.paper};
  border-top: 1px solid ${theme.rule};
  padding: 8px 14px;
  display: grid;
  gap: 6px;
  .row {
    display: grid;
    grid-auto-flow: column;
    grid-auto-columns: minmax(0, 1fr);
    gap: 8px;
  }
  .told .quiet {
    margin-left: 8px;
  }
  .told {
    display: flex;
    gap: 12px;
    align-items: center;
    justify-content: space-between;
    min-height: 34px;
    font-size: 13px;
  }
`;

const WayCard = styled.article`
  display: grid;
  grid-template-rows: 88px auto auto;
  gap: 4px;
  border: 1px solid ${theme.rule};
  background: ${theme.sheet};
  padding: 6px;
  font-size: 12.5px;
  min-width: 0;
  &[data-taken='true'] {
    border-color: ${theme.accent};
    box-shadow: inset 0 0 0 1px ${theme.accent};
  }
  h3 {
    overflow: hidden;
    font-size: 13px;
    line-height: 1.2;
  }
  .does {
    display: flex;
    gap: 6px;
    align-items: center;
    justify-content: space-between;
    min-width: 0;
  }
  .does > span {
    min-width: 0;
    line-height: 1.25;
  }
  small {
    color: ${theme.accentDark};
    font-weight: 600;
  }
`;

/** What is done when a way is taken, in words. */
const DOES = { crop: 'Cut to this', extend: 'Add and fill', stretch: 'Stretch to this', mixed: 'Stretch and fill' };

function Card(props: { state: PictureState; framed: Framed; way: Way; viewing: Viewing }) {
  const { state, framed, way, viewing } = props;
  const isTaken = framed.way.way === way.way;
  const stands = isTaken && framed.stands;
  const looked = stands ? undefined : framed.lookAt(way);
  const grows = way.way !== 'crop' && way.set.canvas !== null && !stands;
  const card = useRef<HTMLElement>(null);
  const { isTaking } = framed;
  useEffect(() => {
    // Its button is gone with the way that was taken: whoever goes by keys stays where they were.
    if (stands && isTaking && document.activeElement === document.body) card.current?.focus();
  }, [stands, isTaking]);
  return (
    <WayCard ref={card} tabIndex={-1} data-taken={isTaken} aria-label={WAY_NAMES[way.way]}>
      <FrameSheet
        small
        state={state}
        way={way}
        degrees={framed.degrees}
        subject={framed.subject}
        marked={[]}
        looked={looked}
      />
      <h3 title={WAY_NAMES[way.way]}>{WAY_NAMES[way.way]}</h3>
      <div className="does">
        <span className="quiet">
          {framed.proposal.way.way === way.way && <small>proposed </small>}
          {costInShort(way, state.picture.facts, framed.subject)}
          {grows &&
            !framed.marked.asks &&
            !isTooFar(way, state.picture.facts, framed.subject) &&
            ` · ${lookedInWords(looked, viewing).short}`}
        </span>
        {stands ? (
          <small>stands</small>
        ) : isTaken ? (
          <Button
            kind="main"
            isDisabled={framed.marked.busy || framed.isTaking || (grows && framed.marked.asks)}
            onPress={() => void framed.take()}
          >
            {way.way !== 'crop' && !way.set.canvas ? 'Take this' : DOES[way.way]}
          </Button>
        ) : (
          <Button onPress={() => framed.setTaken(way.way)}>Look at it</Button>
        )}
      </div>
    </WayCard>
  );
}

/** Every way to get there, side by side, and what is to be said of the one that is looked at. */
export function WayCards({ state, framed, viewing }: { state: PictureState; framed: Framed; viewing: Viewing }) {
  const { ways, way, stands, proposal } = framed;
  const grows = way.way !== 'crop' && way.set.canvas !== null;
  const said = [
    ...(proposal.way.way === way.way && !stands ? [proposal.reason] : []),
    ...(grows && !stands && !framed.marked.asks && !isTooFar(way, state.picture.facts, framed.subject)
      ? [lookedInWords(framed.lookAt(way), viewing).long]
      : []),
    ...(framed.marked.asks && ways.extend.set.canvas ? ['Say what the subject is before anything is added.'] : []),
    ...(stands ? [`It stands like this. ${way.way === 'crop' ? '' : checkedInWords(state, viewing)}`] : []),
  ];
  return (
    <Ways>
      <div className="row">
        {[ways.crop, ways.extend, ways.stretch, ways.mixed].map(
          (w) => w && <Card key={w.way} state={state} framed={framed} way={w} viewing={viewing} />,
        )}
      </div>
      <div className="told">
        <span role="status">
          {said.join(' ')} <span className="quiet">{costsOf(state, way, framed.subject).join(' · ')}</span>
        </span>
        {(way.way === 'stretch' || way.way === 'mixed') && way.set.canvas ? (
          <label style={{ whiteSpace: 'nowrap' }}>
            Drawn out{' '}
            <Select value={framed.by} onChange={(e) => framed.setBy(e.target.value as StretchWay)}>
              <option value="smooth">smoothly</option>
              <option value="seams">by inserted seams</option>
            </Select>
          </label>
        ) : (
          way.way === 'extend' &&
          way.set.canvas &&
          !state.picture.joined && (
            <Link to={toStage('Intake', { jobId: state.picture.jobId })} style={{ whiteSpace: 'nowrap' }}>
              Or join another frame of it
            </Link>
          )
        )}
      </div>
    </Ways>
  );
}
