import { useState } from 'react';
import { duration, millimetres } from '../lib/format.ts';
import { Button, Toggle } from '../ui/controls.tsx';
import { FindFacts } from './FindFacts.tsx';
import { FindMap } from './FindMap.tsx';
import { nameOf, treatWords } from './groups.ts';
import type { Surveying } from './useSurveying.ts';

const AREA_COLOURS = { subject: '#1B5E9B', backdrop: '#9A5B00' } as const;

/** Where finds are on the picture, the areas that the survey goes by, and what is done with what was found. */
export function Place({ surveying }: { surveying: Surveying }) {
  const { state, group, shown, seen, found, marked, setAreas, drawing, setDrawing, outdated, task } = surveying;
  const { viewing, estimate, allowed, open, busy, take } = surveying;
  const [heat, setHeat] = useState(false);
  const name = group ? nameOf(group.kind).toLowerCase() : '';
  const facts = found && seen.get(found.id)!;
  const { distanceMm, longSideMm } = viewing;
  return (
    <section className="side" aria-label="Where it is">
      <FindMap
        state={state!}
        finds={drawing ? [] : shown}
        current={found}
        heat={heat}
        areas={(['backdrop', 'subject'] as const).flatMap((k) =>
          marked[k].map((shape) => ({ shape, colour: AREA_COLOURS[k] })),
        )}
        onOutline={
          drawing
            ? (shape) => {
                setAreas({ ...marked, [drawing]: [...marked[drawing], shape] });
                setDrawing(null);
              }
            : null
        }
      />
      <div className="about">
        <div style={{ display: 'flex', flexWrap: 'wrap', gap: 6 }}>
          <Toggle isSelected={heat} onChange={setHeat}>
            What draws the eye
          </Toggle>
          {(['subject', 'backdrop'] as const).map((k) => (
            <Toggle key={k} isSelected={drawing === k} onChange={(on) => setDrawing(on ? k : null)}>
              {k === 'subject' ? 'Subject' : 'Backdrop'}
            </Toggle>
          ))}
          {marked.subject.length + marked.backdrop.length > 0 && (
            <Button kind="quiet" onPress={() => setAreas({ subject: [], backdrop: [] })}>
              Clear areas
            </Button>
          )}
        </div>
        {drawing && (
          <p role="status">
            {drawing === 'subject'
              ? 'Draw around what the picture is about: it is never a stand-out.'
              : 'Draw around the backdrop: scuffs are looked for there.'}
          </p>
        )}
        {outdated && !drawing && !task && <p role="status">Survey again to go by the areas.</p>}
        {found && facts ? (
          <FindFacts find={found} seen={facts} />
        ) : (
          group && (
            <p className="quiet">
              Click what is no fault, or drag a box over several. With the keyboard: arrows, and X to reject or to take
              it back. Looked at from {millimetres(distanceMm)}, {millimetres(longSideMm)} long.
            </p>
          )
        )}
      </div>
      {group && (
        <div className="steps">
          <Button kind="main" isDisabled={busy || !open.length || !allowed} onPress={() => void take(open, true)}>
            {treatWords(open.length, name)}
          </Button>
          <Button isDisabled={busy || !open.length} onPress={() => void take(open, false)}>
            Only into the worklist
          </Button>
          <p className="quiet" style={{ fontSize: 12.5 }}>
            {allowed
              ? `By hand about ${duration(estimate.minutes)}.`
              : 'This is a documentary job: these are part of the scene and stay. Change what may be changed in the job first.'}
          </p>
        </div>
      )}
    </section>
  );
}
