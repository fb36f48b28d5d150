import { useMemo, useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import styled from 'styled-components';
import type { SurveyFind } from '../../contract/survey.ts';
import type { Shape } from '../../core/mask/shapes.ts';
import { mayRepair } from '../../core/plan/policy.ts';
import { minutesForAll } from '../../core/plan/minutes.ts';
import { usualDistance } from '../../core/plan/visibility.ts';
import { refreshSurvey, useJobs, usePicture, useSurvey, useTasks } from '../lib/api.ts';
import { canvasOfState } from '../lib/canvas.ts';
import { PICTURES, SURVEYS, TASKS } from '../../contract/addresses.ts';
import { call, useAnswer } from '../lib/http.ts';
import { count, duration, millimetres } from '../lib/format.ts';
import { refreshPicture } from '../lib/picture-store.ts';
import { theme } from '../theme.ts';
import { Button, Toggle } from '../ui/controls.tsx';
import { Slider } from '../ui/sliders.tsx';
import { Notices } from '../ui/notices.tsx';
import { Column, Shell, StageBar } from '../ui/page.tsx';
import { ContactSheet } from './ContactSheet.tsx';
import { FindFacts } from './FindFacts.tsx';
import { FindMap } from './FindMap.tsx';
import { groupsOf, nameOf, seenOf, shownOf, spansOf, seenWords, treatWords } from './groups.ts';

const Survey = styled.div`
  height: 100%;
  display: grid;
  grid-template-columns: 216px minmax(0, 1fr) 300px;
  grid-template-rows: minmax(0, 1fr);
  > section {
    min-width: 0;
    min-height: 0;
    display: flex;
    flex-direction: column;
    background: ${theme.sheet};
  }
  .groups {
    border-right: 1px solid ${theme.rule};
  }
  .groups header,
  .middle header {
    display: flex;
    gap: 10px;
    align-items: center;
    padding: 8px 12px;
    border-bottom: 1px solid ${theme.rule};
    height: 56px;
    flex: none;
  }
  .groups header button {
    flex: 1;
  }
  .groups ul {
    list-style: none;
    margin: 0;
    padding: 0;
    overflow: auto;
  }
  .groups li button {
    width: 100%;
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    border: 0;
    border-left: 3px solid transparent;
    border-bottom: 1px solid ${theme.rule};
    background: none;
    padding: 9px 12px 9px 9px;
    cursor: pointer;
    text-align: left;
  }
  .groups li button[aria-pressed='true'] {
    background: ${theme.accentTint};
    border-left-color: ${theme.accent};
    font-weight: 600;
  }
  .middle header .wide {
    width: 190px;
  }
  .middle header .push {
    margin-left: auto;
  }
  .side {
    border-left: 1px solid ${theme.rule};
  }
  .side .about {
    padding: 10px 14px;
    display: grid;
    gap: 8px;
    font-size: 13px;
    overflow: auto;
  }
  dl {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 3px 10px;
    margin: 0;
  }
  dt {
    color: ${theme.quiet};
  }
  dt small {
    display: block;
    font-size: 11.5px;
    line-height: 1.25;
  }
  dd {
    margin: 0;
    text-align: right;
  }
  .steps {
    margin-top: auto;
    padding: 12px 14px;
    display: grid;
    gap: 8px;
    border-top: 1px solid ${theme.rule};
  }
  .empty {
    display: grid;
    gap: 12px;
    align-content: center;
    justify-items: center;
    height: 100%;
    text-align: center;
    padding: 30px;
  }
  .empty p {
    max-width: 430px;
  }
`;

/** What was outlined for the survey to go by. */
interface Areas {
  subject: Shape[];
  backdrop: Shape[];
}
const AREA_COLOURS = { subject: '#1B5E9B', backdrop: '#9A5B00' } as const;

/** Survey: what was found, by kind, at a glance; what is no fault is rejected, the rest goes into the worklist. */
export default function SurveyPage() {
  const { pictureId = '' } = useParams();
  const { data: state, error } = usePicture(pictureId);
  const { data: jobs } = useJobs();
  const { data: survey } = useSurvey(pictureId);
  const { data: work } = useAnswer(PICTURES.work, { id: pictureId });
  const navigate = useNavigate();
  const task = useTasks().find((t) => t.pictureId === pictureId && t.label === 'Survey' && t.state === 'running');
  const [kind, setKind] = useState<string | null>(null);
  const [sensitivity, setSensitivity] = useState<Record<string, number>>({});
  const [current, setCurrent] = useState<string | null>(null);
  const [heat, setHeat] = useState(false);
  const [areas, setAreas] = useState<Areas | null>(null);
  const [drawing, setDrawing] = useState<keyof Areas | null>(null);
  const [onlySeen, setOnlySeen] = useState(false);
  const [busy, setBusy] = useState(false);
  const [refusal, setRefusal] = useState<string | null>(null);

  const job = jobs?.find((j) => j.id === state?.picture.jobId);
  const longSideMm = job?.longSideMm ?? 300;
  const viewing = { longSideMm, distanceMm: job?.viewingMm ?? usualDistance(longSideMm) };
  const canvas = state && canvasOfState(state);
  const longSidePx = canvas ? Math.max(canvas.width, canvas.height) : 1;
  const groups = useMemo(() => groupsOf(survey?.finds ?? []), [survey]);
  const taken = useMemo(
    () => Object.fromEntries((state?.document.faults ?? []).flatMap((f) => (f.found ? [[f.found, f.id]] : []))),
    [state],
  );
  const level = (k: string) => sensitivity[k] ?? 0.5;
  const group = groups.find((g) => g.kind === kind) ?? groups.find((g) => shownOf(g, level(g.kind), taken).length > 0);
  const all = group ? shownOf(group, level(group.kind), taken) : [];
  const seen = new Map(all.map((f) => [f.id, seenOf(f, longSidePx, viewing)]));
  const unseen = new Set(all.filter((f) => seen.get(f.id)!.times < 1).map((f) => f.id));
  const shown = (onlySeen ? all.filter((f) => !unseen.has(f.id)) : all)
    .slice()
    .sort((a, b) => seen.get(b.id)!.times - seen.get(a.id)!.times || b.score - a.score);
  const open = shown.filter((f) => !f.rejected && !taken[f.id]);
  const found = shown.find((f) => f.id === current);
  const estimate = minutesForAll(
    open.map((f) => f.kind),
    work?.log ?? [],
  );
  const allowed = !group || mayRepair(job?.policy ?? 'creative', group.kind);

  const names = { id: pictureId };
  const attempt = async (work: () => Promise<unknown>) => {
    setBusy(true);
    try {
      await work();
      setRefusal(null);
    } catch (e) {
      setRefusal((e as Error).message);
    } finally {
      setBusy(false);
    }
  };
  // Until something else is outlined, the areas of the last survey hold.
  const marked: Areas = areas ?? { subject: survey?.request.subject ?? [], backdrop: survey?.request.backdrop ?? [] };
  const outdated =
    survey &&
    JSON.stringify([survey.request.subject, survey.request.backdrop]) !==
      JSON.stringify([marked.subject, marked.backdrop]);
  const start = () => attempt(() => call(SURVEYS.start, names, { body: marked }));
  const decide = (ids: string[], rejected: boolean) => {
    const wanted = new Set(ids);
    const next = survey && { ...survey, finds: survey.finds.map((f) => (wanted.has(f.id) ? { ...f, rejected } : f)) };
    void refreshSurvey(pictureId, next);
    void attempt(async () => {
      await call(SURVEYS.decide, names, { body: { ids, rejected } });
    });
  };
  const take = (finds: SurveyFind[], treat: boolean) =>
    attempt(async () => {
      const ids = finds.map((f) => f.id);
      const accepted: string[] = [];
      for (let n = 0; n < ids.length; n += 1000) {
        const part = ids.slice(n, n + 1000);
        const answer = await call(SURVEYS.accept, names, { body: { ids: part } });
        accepted.push(...part.flatMap((i) => answer.taken[i] ?? []));
      }
      if (treat) await call(PICTURES.treat, names, { body: { faultIds: accepted } });
      refreshPicture(pictureId);
    });

  if (!state) {
    return (
      <Shell>
        <StageBar />
        <main>
          <Column>{error ? <p role="alert">{error.message}</p> : <p role="status">Opening the picture…</p>}</Column>
        </main>
      </Shell>
    );
  }
  const name = group ? nameOf(group.kind).toLowerCase() : '';
  const facts = found && seen.get(found.id)!;
  return (
    <Shell>
      <StageBar place={{ jobId: state.picture.jobId, pictureId }}>
        <span className="title">{state.picture.name}</span>
      </StageBar>
      <main style={{ overflow: 'hidden' }}>
        <h1 className="visually-hidden">Survey: {state.picture.name}</h1>
        <Survey>
          <section className="groups" aria-label="What was found">
            <header>
              <Button kind={survey ? 'plain' : 'main'} isDisabled={busy || !!task} onPress={() => void start()}>
                {task ? `Surveying… ${Math.round(task.done * 100)} %` : survey ? 'Survey again' : 'Survey'}
              </Button>
            </header>
            <ul>
              {groups.map((g) => {
                const list = shownOf(g, level(g.kind), taken);
                const left = list.filter((f) => !f.rejected && !taken[f.id]).length;
                return (
                  <li key={g.kind}>
                    <button
                      aria-pressed={g === group}
                      onClick={() => {
                        setKind(g.kind);
                        setCurrent(null);
                      }}
                    >
                      <span>{nameOf(g.kind)}</span>
                      <span className="mono quiet">
                        {left < list.length ? `${count(left)} of ${count(list.length)}` : count(left)}
                      </span>
                    </button>
                  </li>
                );
              })}
            </ul>
          </section>
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
                      onChange={(v) => setSensitivity((s) => ({ ...s, [group.kind]: v / 100 }))}
                    />
                  </div>
                  <Toggle isSelected={onlySeen} onChange={setOnlySeen} isDisabled={unseen.size === 0}>
                    Only what is seen
                  </Toggle>
                  <span className="push quiet">{seenWords(all.length - unseen.size, all.length)}</span>
                </header>
                <ContactSheet
                  state={state}
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
                    <Button kind="main" onPress={() => void navigate(`/pictures/${pictureId}/bench`)}>
                      To the bench
                    </Button>
                  </>
                ) : (
                  <>
                    <h2>Let the picture be looked over</h2>
                    <p>
                      The survey looks for specks, hairs, scratches, creases, tears, stains, wires, empty borders and
                      for what draws the eye. It changes nothing: you say what is a fault.
                    </p>
                    <Button kind="main" isDisabled={busy} onPress={() => void start()}>
                      Survey
                    </Button>
                  </>
                )}
              </div>
            )}
          </section>
          <section className="side" aria-label="Where it is">
            <FindMap
              state={state}
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
                    Click what is no fault, or drag a box over several. With the keyboard: arrows, and X to reject or to
                    take it back. Looked at from {millimetres(viewing.distanceMm)}, {millimetres(longSideMm)} long.
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
        </Survey>
      </main>
      <Notices pictureId={pictureId} refusal={refusal} onDismiss={() => setRefusal(null)} />
    </Shell>
  );
}
