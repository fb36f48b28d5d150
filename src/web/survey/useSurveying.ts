import { useMemo, useState } from 'react';
import { PICTURES, SURVEYS } from '../../contract/addresses.ts';
import type { SurveyFind } from '../../contract/survey.ts';
import type { Shape } from '../../core/mask/shapes.ts';
import { minutesForAll } from '../../core/plan/minutes.ts';
import { mayRepair } from '../../core/plan/policy.ts';
import { refreshSurvey, useJobs, usePicture, useSurvey, useTasks } from '../lib/api.ts';
import { longSideOf } from '../lib/canvas.ts';
import { call, useAnswer } from '../lib/http.ts';
import { refreshPicture } from '../lib/picture-store.ts';
import { viewingOf } from '../lib/viewing.ts';
import { groupsOf, seenOf, shownOf } from './groups.ts';

/** What was outlined for the survey to go by. */
export interface Areas {
  subject: Shape[];
  backdrop: Shape[];
}

const NOTHING: Shape[] = [];
/** Finds taken into the worklist with one request. */
const TAKEN_AT_ONCE = 1000;

/** The survey of a picture: what was found and how it is looked at, and what is done with it. */
export function useSurveying(pictureId: string) {
  const { data: state, error } = usePicture(pictureId);
  const { data: jobs } = useJobs();
  const { data: survey } = useSurvey(pictureId);
  const { data: work } = useAnswer(PICTURES.work, { id: pictureId });
  const task = useTasks().find((t) => t.pictureId === pictureId && t.label === 'Survey' && t.state === 'running');
  const [kind, setKind] = useState<string | null>(null);
  const [sensitivity, setSensitivity] = useState<Record<string, number>>({});
  const [current, setCurrent] = useState<string | null>(null);
  const [backdrop, setBackdrop] = useState<Shape[] | null>(null);
  const { data: outlined, mutate: tellSubject } = useAnswer(PICTURES.subject, { id: pictureId });
  const subject = outlined ?? NOTHING;
  const [drawing, setDrawing] = useState<keyof Areas | null>(null);
  const [onlySeen, setOnlySeen] = useState(false);
  const [busy, setBusy] = useState(false);
  const [refusal, setRefusal] = useState<string | null>(null);

  const job = jobs?.find((j) => j.id === state?.picture.jobId);
  const viewing = viewingOf(job);
  const longSidePx = longSideOf(state);
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
  // Until something else is outlined, the backdrop of the last survey holds; the subject is the picture's.
  const marked: Areas = { subject, backdrop: backdrop ?? survey?.request.backdrop ?? [] };
  const outdated =
    survey &&
    JSON.stringify([survey.request.subject, survey.request.backdrop]) !==
      JSON.stringify([marked.subject, marked.backdrop]);
  const setAreas = (next: Areas) => {
    setBackdrop(next.backdrop);
    if (next.subject === subject) return;
    void tellSubject(next.subject, { revalidate: false });
    void attempt(() => call(PICTURES.setSubject, names, { body: { shapes: next.subject } }));
  };
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
      for (let n = 0; n < ids.length; n += TAKEN_AT_ONCE) {
        const part = ids.slice(n, n + TAKEN_AT_ONCE);
        const answer = await call(SURVEYS.accept, names, { body: { ids: part } });
        accepted.push(...part.flatMap((i) => answer.taken[i] ?? []));
      }
      if (treat) await call(PICTURES.treat, names, { body: { faultIds: accepted } });
      refreshPicture(pictureId);
    });

  return {
    state,
    error,
    survey,
    task,
    busy,
    refusal,
    setRefusal,
    groups,
    group,
    setKind,
    level,
    setLevel: (k: string, to: number) => setSensitivity((was) => ({ ...was, [k]: to })),
    taken,
    /** finds of the group, those that nobody would see included */
    all,
    seen,
    unseen,
    shown,
    open,
    found,
    current,
    setCurrent,
    onlySeen,
    setOnlySeen,
    marked,
    setAreas,
    drawing,
    setDrawing,
    outdated,
    viewing,
    estimate,
    allowed,
    start,
    decide,
    take,
  };
}

export type Surveying = ReturnType<typeof useSurveying>;
