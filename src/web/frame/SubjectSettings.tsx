import type { ReactNode } from 'react';
import { Radio, RadioGroup } from 'react-aria-components';
import styled from 'styled-components';
import { PLACES, type PlaceName } from '../../core/frame/format.ts';
import { roomInWords } from '../../core/frame/words.ts';
import { theme } from '../theme.ts';
import { Button, Select, Toggle } from '../ui/controls.tsx';
import type { Focus, Framed } from './useFraming.ts';

export const Settings = styled.section`
  display: grid;
  gap: 8px;
  padding: 12px 14px 14px;
  border-bottom: 1px solid ${theme.rule};
  .row {
    display: flex;
    gap: 8px;
    align-items: center;
    flex-wrap: wrap;
  }
`;

const Places = styled(RadioGroup)`
  display: grid;
  grid-template-columns: 52px repeat(4, minmax(0, 1fr));
  gap: 0 4px;
  align-items: center;
  font-size: 13px;
  .react-aria-Radio {
    text-align: center;
    padding: 3px 4px;
    border: 1px solid ${theme.rule};
    border-radius: 3px;
    cursor: pointer;
    background: ${theme.sheet};
  }
  .react-aria-Radio[data-selected] {
    background: ${theme.accentTint};
    border-color: ${theme.accent};
    color: ${theme.accentDark};
    font-weight: 600;
  }
  .react-aria-Radio[data-focus-visible] {
    outline: 2px solid ${theme.accent};
    outline-offset: 1px;
  }
`;

/** Where the subject stands in one direction. */
function PlaceRow(props: {
  label: string;
  words: readonly [string, string, string];
  value: PlaceName | null;
  onChange(place: PlaceName | null): void;
}) {
  const names = Object.keys(PLACES) as PlaceName[];
  return (
    <Places
      aria-label={`Stands ${props.label.toLowerCase()}`}
      orientation="horizontal"
      value={props.value ?? 'free'}
      onChange={(v) => props.onChange(v === 'free' ? null : (v as PlaceName))}
    >
      <span className="quiet">{props.label}</span>
      {names.map((name, n) => (
        <Radio key={name} value={name}>
          {props.words[n]}
        </Radio>
      ))}
      <Radio value="free">free</Radio>
    </Places>
  );
}

/** A choice that stands in a row with its word before it. */
function Choice(props: {
  label: string;
  name: string;
  value: string | number;
  onChange(value: string): void;
  children: ReactNode;
}) {
  return (
    <div className="row">
      <span className="quiet" style={{ width: 52, fontSize: 13 }}>
        {props.label}
      </span>
      <Select aria-label={props.name} value={props.value} onChange={(e) => props.onChange(e.target.value)}>
        {props.children}
      </Select>
    </div>
  );
}

/** What is said of the subject until it is outlined. */
function subjectInWords({ busy, said, asks, none, found }: Framed['marked']): string | null {
  if (busy) return 'Its edge is being found…';
  if (said) return said;
  if (none) return 'This picture has no subject: nothing is stretched, and what stands out is not copied.';
  if (!asks) return null;
  if (found === undefined) return 'Looking for the subject…';
  return found
    ? 'Is this the subject? Its outline is dashed in the picture.'
    : 'Nothing plainly stands out. Draw around the subject, or say that there is none.';
}

/** Which of the subject is asked about, drawn or set right. */
function SubjectButtons({ framed }: { framed: Framed }) {
  const { marked } = framed;
  const { box } = marked;
  return (
    <>
      <div className="row">
        {marked.asks && marked.found && (
          <Button kind="main" onPress={() => void marked.accept()}>
            Yes
          </Button>
        )}
        <Toggle isSelected={framed.draws === 'subject'} onChange={(on) => framed.setDraws(on ? 'subject' : null)}>
          {box ? 'Draw it again' : 'Draw around it'}
        </Toggle>
        {marked.asks && <Button onPress={() => void marked.sayNone()}>No subject</Button>}
        {box && (
          <Button kind="quiet" onPress={() => void marked.forget()}>
            Forget it
          </Button>
        )}
      </div>
      {box && (
        <div className="row">
          <Toggle isSelected={framed.draws === 'keep'} onChange={(on) => framed.setDraws(on ? 'keep' : null)}>
            Add to it
          </Toggle>
          <Toggle isSelected={framed.draws === 'leave'} onChange={(on) => framed.setDraws(on ? 'leave' : null)}>
            Take from it
          </Toggle>
        </div>
      )}
    </>
  );
}

/** What the picture is about, and where it is to stand. */
export function SubjectSettings({ framed }: { framed: Framed }) {
  const { marked, focus, setFocus } = framed;
  const said = subjectInWords(marked);
  return (
    <Settings aria-labelledby="frame-subject">
      <h2 id="frame-subject">Subject</h2>
      {said && (
        <p className="quiet" style={{ fontSize: 13 }} role="status">
          {said}
        </p>
      )}
      <SubjectButtons framed={framed} />
      {marked.box && (
        <>
          <Choice label="Place" name="What of it stands there" value={focus} onChange={(v) => setFocus(v as Focus)}>
            <option value="head">its head</option>
            <option value="middle">its middle</option>
          </Choice>
          <PlaceRow
            label="Across"
            words={['left', 'middle', 'right']}
            value={framed.across}
            onChange={framed.setAcross}
          />
          <PlaceRow label="Down" words={['upper', 'middle', 'lower']} value={framed.down} onChange={framed.setDown} />
          <Choice
            label="Looks"
            name="Where it looks or moves to"
            value={framed.looks}
            onChange={(v) => framed.setLooks(Number(v) as Framed['looks'])}
          >
            <option value={0}>ahead</option>
            <option value={-1}>left</option>
            <option value={1}>right</option>
          </Choice>
          {framed.subject && (
            <p className="quiet" style={{ fontSize: 13 }}>
              {roomInWords(framed.way.seen, framed.subject)}
            </p>
          )}
        </>
      )}
    </Settings>
  );
}
