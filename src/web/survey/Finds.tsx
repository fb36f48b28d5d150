import { useNavigate } from 'react-router';
import { TASKS } from '../../contract/addresses.ts';
import { call } from '../lib/http.ts';
import { toStage } from '../lib/stages.ts';
import { Button, Toggle } from '../ui/controls.tsx';
import { Slider } from '../ui/sliders.tsx';
import { ContactSheet } from './ContactSheet.tsx';
import { nameOf, seenWords, spansOf } from './groups.ts';
import type { Surveying } from './useSurveying.ts';

/** The finds of a group on a contact sheet; or what is to be done where there are none. */
export function Finds({ surveying, pictureId }: { surveying: Surveying; pictureId: string }) {
  const { state, survey, task, busy, start, group, level, setLevel, all, shown, taken, unseen } = surveying;
  const { current, setCurrent, onlySeen, setOnlySeen, decide } = surveying;
  const navigate = useNavigate();
  return (
    <section className="middle" aria-label="Contact sheet">
      {group ? (
        <>
          <header>
            <h2>{nameOf(group.kind)}</h2>
            <div className="wide">
              <Slider
                label="Sensitivity"
                unit="%"
                min={5}
                max={90}
                value={Math.round(level(group.kind) * 100)}
                onChange={(v) => setLevel(group.kind, v / 100)}
              />
            </div>
            <Toggle isSelected={onlySeen} onChange={setOnlySeen} isDisabled={unseen.size === 0}>
              Only what is seen
            </Toggle>
            <span className="push quiet">{seenWords(all.length - unseen.size, all.length)}</span>
          </header>
          <ContactSheet
            state={state!}
            finds={shown}
            span={spansOf(all)}
            taken={taken}
            unseen={unseen}
            current={current}
            onCurrent={setCurrent}
            onDecide={decide}
          />
        </>
      ) : (
        <div className="empty">
          {task ? (
            <>
              <h2>Looking the picture over</h2>
              <progress value={task.done} max={1} aria-label="Survey" />
              <Button onPress={() => void call(TASKS.stop, { id: task.id })}>Stop</Button>
            </>
          ) : survey ? (
            <>
              <h2>Nothing was found</h2>
              <p>What the survey cannot know you can mark at the bench.</p>
              <Button kind="main" onPress={() => void navigate(toStage('Bench', { pictureId }))}>
                To the bench
              </Button>
            </>
          ) : (
            <>
              <h2>Let the picture be looked over</h2>
              <p>
                The survey looks for specks, hairs, scratches, creases, tears, stains, wires, empty borders and for what
                draws the eye. It changes nothing: you say what is a fault.
              </p>
              <Button kind="main" isDisabled={busy} onPress={() => void start()}>
                Survey
              </Button>
            </>
          )}
        </div>
      )}
    </section>
  );
}
