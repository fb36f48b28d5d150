import type { ReactNode } from 'react';
import { Radio, RadioGroup } from 'react-aria-components';
import styled from 'styled-components';
import { PLACES, PROPORTIONS, type PlaceName } from '../../core/frame/format.ts';
import { CERTAIN } from '../../core/frame/level.ts';
import { roomInWords } from '../../core/frame/words.ts';
import { theme } from '../theme.ts';
import { Button, Field, Select, Toggle } from '../ui/controls.tsx';
import { Slider } from '../ui/sliders.tsx';
import { GUIDE_LINES, type GuideLines } from './guide-lines.ts';
import { StripSettings } from './StripSettings.tsx';
import { AS_IT_IS, OWN, PIXELS, PRINT, USUAL_PPI, WRITTEN, type Focus, type Framed } from './useFraming.ts';

const Settings = styled.section`
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

/** What the picture's own lines say about how it leans. */
function leanInWords(lean: Framed['lean']): string {
  if (lean === undefined) return 'Looking for long lines…';
  if (!lean || lean.certainty < CERTAIN) return 'Nothing in it is plainly level.';
  const by = `${Math.abs(lean.degrees).toFixed(2)}°`;
  if (Math.abs(lean.degrees) < 0.1) return `It stands level, by its ${lean.from}.`;
  return `It leans ${by} ${lean.degrees > 0 ? 'clockwise' : 'anticlockwise'}, by its ${lean.from} (certainty ${Math.round(100 * lean.certainty)} %).`;
}

/** Resolutions of prints that are taken, px per inch. */
const LEAST_PPI = 50;
const MOST_PPI = 2400;

/** How formats are written by hand. */
const HANDWRITTEN: Record<string, { label: string; example: string; unit: string }> = {
  [OWN]: { label: 'Own proportion, such as 7:5', example: '7:5', unit: '' },
  [PRINT]: { label: 'Size of the print in mm, such as 210 × 297', example: '210 × 297', unit: 'mm' },
  [PIXELS]: { label: 'Pixels asked for, such as 1080 × 1350', example: '1080 × 1350', unit: 'px' },
};

/** A format that is written: two numbers, and for a print how many px per inch. */
function Written({ framed }: { framed: Framed }) {
  const { format, own, setOwn, ppi, setPpi, proportion } = framed;
  const { label, example, unit } = HANDWRITTEN[format];
  return (
    <>
      <div className="row">
        <Field style={{ width: 118 }}>
          <input aria-label={label} placeholder={example} value={own} onChange={(e) => setOwn(e.target.value)} />
        </Field>
        {unit && <span className="quiet">{unit}</span>}
        {format === PRINT && (
          <>
            <span className="quiet">at</span>
            <Field style={{ width: 62 }}>
              <input
                type="number"
                aria-label="Resolution in px per inch"
                min={LEAST_PPI}
                max={MOST_PPI}
                value={ppi}
                onChange={(e) => setPpi(Math.min(MOST_PPI, Math.max(1, Number(e.target.value) || USUAL_PPI)))}
              />
            </Field>
            <span className="quiet">ppi</span>
          </>
        )}
      </div>
      {own.trim() !== '' && !proportion && (
        <p role="alert" style={{ color: theme.bad, fontSize: 13 }}>
          Write two numbers, such as {example}.
        </p>
      )}
    </>
  );
}

/** What is asked of the frame: proportion, subject, level. */
export function FrameSettings({ framed }: { framed: Framed }) {
  const { format, setFormat, marked, focus, setFocus, degrees, setDegrees, lean } = framed;
  const { box } = marked;
  const certain = lean && lean.certainty >= CERTAIN && Math.abs(lean.degrees) >= 0.1 ? lean : null;
  return (
    <>
      <Settings aria-labelledby="frame-format">
        <h2 id="frame-format">Format</h2>
        <div className="row">
          <Select aria-label="Proportion" value={format} onChange={(e) => setFormat(e.target.value)}>
            <option value={AS_IT_IS}>as it is</option>
            {PROPORTIONS.map((p) => (
              <option key={p.name}>{p.name}</option>
            ))}
            <option value={OWN}>own…</option>
            <option value={PRINT}>by print size…</option>
            <option value={PIXELS}>by pixels…</option>
          </Select>
          <Select
            aria-label="Lines over the picture"
            value={framed.lines}
            onChange={(e) => framed.setLines(e.target.value as GuideLines)}
          >
            {GUIDE_LINES.map((name) => (
              <option key={name}>{name}</option>
            ))}
          </Select>
        </div>
        {WRITTEN.includes(format) && <Written framed={framed} />}
      </Settings>
      <Settings aria-labelledby="frame-subject">
        <h2 id="frame-subject">Subject</h2>
        <div className="row">
          <Toggle isSelected={framed.draws === 'subject'} onChange={(on) => framed.setDraws(on ? 'subject' : null)}>
            {box ? 'Draw it again' : 'Draw around it'}
          </Toggle>
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
        <p className="quiet" style={{ fontSize: 13 }} role="status">
          {marked.busy ? 'Its edge is being found…' : marked.said}
        </p>
        {box ? (
          <>
            <Choice label="Its" name="What of it stands there" value={focus} onChange={(v) => setFocus(v as Focus)}>
              <option value="head">head stands</option>
              <option value="middle">middle stands</option>
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
        ) : (
          <p className="quiet" style={{ fontSize: 13 }}>
            Nothing is filled from the subject, and no crop that cuts it is proposed.
          </p>
        )}
      </Settings>
      <Settings aria-labelledby="frame-level">
        <h2 id="frame-level">Level</h2>
        <p className="quiet" style={{ fontSize: 13 }} role="status">
          {leanInWords(lean)}
        </p>
        <div className="row">
          {certain && Math.abs(certain.degrees - degrees) > 0.02 && (
            <Button onPress={() => setDegrees(Math.round(certain.degrees * 100) / 100)}>Level it</Button>
          )}
          <Toggle isSelected={framed.draws === 'line'} onChange={(on) => framed.setDraws(on ? 'line' : null)}>
            Draw a line
          </Toggle>
          {degrees !== 0 && (
            <Button kind="quiet" onPress={() => setDegrees(0)}>
              Not turned
            </Button>
          )}
        </div>
        <Slider label="Leans by" unit="°" min={-15} max={15} step={0.1} value={degrees} onChange={setDegrees} />
      </Settings>
      <Settings aria-labelledby="frame-strip">
        <h2 id="frame-strip">Strip</h2>
        <StripSettings framed={framed} />
      </Settings>
    </>
  );
}
