import { PROPORTIONS } from '../../core/frame/format.ts';
import { CERTAIN } from '../../core/frame/level.ts';
import { theme } from '../theme.ts';
import { Button, Field, Select, Toggle } from '../ui/controls.tsx';
import { Slider } from '../ui/sliders.tsx';
import { GUIDE_LINES, type GuideLines } from './guide-lines.ts';
import { FillAreaSettings } from './FillAreaSettings.tsx';
import { Settings, SubjectSettings } from './SubjectSettings.tsx';
import { StripSettings } from './StripSettings.tsx';
import { AS_IT_IS, OWN, PIXELS, PRINT, USUAL_PPI, WRITTEN, type Framed } from './useFraming.ts';

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
  const { format, setFormat, degrees, setDegrees, lean } = framed;
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
      <SubjectSettings framed={framed} />
      <FillAreaSettings framed={framed} />
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
