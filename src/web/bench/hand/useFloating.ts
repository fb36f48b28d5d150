import { useCallback, useEffect, useRef, useState } from 'react';
import { VIEWS } from '../../../contract/addresses.ts';
import type { PoseRequest } from '../../../contract/api.ts';
import type { Shape } from '../../../core/mask/shapes.ts';
import type { Twin } from '../../../core/plan/twin.ts';
import { call } from '../../lib/http.ts';
import { useLatest } from '../../lib/latest.ts';
import { float, floatTwin, specOf, takenUp, type Floating } from './floating.ts';
import { handSpec, round } from './settings.ts';
import type { HandBase } from './useHandBase.ts';

/** What is outlined and moved before it is put down: patch and transplant. */
export function useFloating(base: HandBase) {
  const { state, mode, settings, set, fault, repair, edits, setMode } = base;
  const { preview, setMessage, area, picture, begin, place } = base;
  const [floating, setFloating] = useState<Floating | null>(null);
  const [bending, setBending] = useState(false);
  const [solving, setSolving] = useState(false);
  const solve = useRef<(given?: Floating) => Promise<void>>(() => Promise.resolve());

  const showFloating = useCallback(
    (f: Floating) => {
      const spec = specOf(f, settings);
      preview.render(spec, { alone: true, strength: f.kind === 'transplant' && !f.editing ? 0.5 : 1 });
    },
    [settings, preview],
  );
  const changeFloating = useCallback(
    (next: Floating | null) => {
      setFloating(next);
      if (next) showFloating(next);
      else preview.clear();
    },
    [showFloating, preview],
  );
  // Other settings show at once; where it lies is shown as it is moved.
  const shown = useLatest(() => floating && showFloating(floating));
  useEffect(() => {
    shown.current();
  }, [settings.blended, settings.feather, settings.direction, shown]);

  const lift = useCallback(
    (shapes: Shape[]) => {
      if (mode !== 'patch' && mode !== 'transplant') return;
      const f = float(mode, shapes, area);
      if (!f) return setMessage('Nothing of this lies on the picture. Outline a place on it.');
      setMessage(null);
      begin(null);
      changeFloating(f);
    },
    [mode, area, begin, changeFloating, setMessage],
  );
  /** Lifts the twin of the chosen fault, brings it there and solves its pose. */
  const liftTwin = useCallback(
    (twin: Twin) => {
      const f = fault && floatTwin(fault.shapes, twin, area);
      if (!f) return;
      begin(null);
      changeFloating(f);
      void solve.current(f);
    },
    [fault, area, begin, changeFloating],
  );
  // What was begun with another verb ends with it; a twin that was asked for is lifted with its own.
  const asked = useRef<Twin | null>(null);
  const lifting = useLatest(liftTwin);
  useEffect(() => {
    setFloating(null);
    setBending(false);
    const twin = asked.current;
    asked.current = null;
    if (twin && mode === 'transplant') lifting.current(twin);
  }, [mode, lifting]);
  /** Lifts a twin as soon as the verb is transplant. */
  const askForTwin = useCallback(
    (twin: Twin) => {
      if (mode === 'transplant') liftTwin(twin);
      else asked.current = twin;
    },
    [mode, liftTwin],
  );
  /** Takes a placed patch or transplant up again. */
  const takeUp = useCallback(() => {
    const f = repair && takenUp(repair, area);
    const spec = handSpec(repair);
    if (!f || !spec || !('blended' in spec)) return;
    set({ blended: spec.blended, feather: spec.feather });
    begin(repair.id);
    changeFloating(f);
  }, [repair, area, begin, changeFloating, set]);

  const putDown = useCallback(() => {
    if (!floating) return;
    const spec = specOf(floating, settings);
    if (floating.kind === 'patch' && floating.at.every((v, i) => Math.abs(v - floating.middle[i]) < 1))
      return setMessage('Drag it first: it still lies where it was outlined.');
    const shown = floating;
    setFloating(null);
    setBending(false);
    preview.render(spec, { alone: true });
    if (shown.editing) {
      void edits.edit({ type: 'changeSpec', id: shown.editing, spec });
      return;
    }
    const cover: Shape[] =
      spec.method === 'patch'
        ? spec.cover
        : [
            {
              op: 'add',
              kind: 'box',
              x: Math.round(shown.at[0] - (shown.box.width * shown.pose.scale) / 2),
              y: Math.round(shown.at[1] - (shown.box.height * shown.pose.scale) / 2),
              width: Math.round(shown.box.width * shown.pose.scale),
              height: Math.round(shown.box.height * shown.pose.scale),
            },
          ];
    const hidden = spec.method === 'transplant' && settings.hidden;
    const everywhere: Shape = { op: 'add', kind: 'box', ...area };
    void place(
      spec,
      { kind: 'object', shapes: cover },
      hidden ? { reveal: [{ op: 'hide', kind: 'area', shapes: [everywhere], feather: 0 }] } : {},
    ).then((made) => {
      if (!made) return preview.clear();
      if (hidden) {
        set({ revealOp: 'show' });
        setMode('reveal');
      }
    });
  }, [floating, settings, preview, edits, place, area, set, setMode, setMessage]);

  const solvePose = useCallback(
    async (given?: Floating) => {
      const from = given ?? floating;
      if (!from || !picture) return;
      setSolving(true);
      setMessage(null);
      try {
        const request: PoseRequest = {
          piece: from.shapes,
          rough: from.at,
          ignore: (state?.document.faults ?? [])
            .filter((f) => f.state === 'open')
            .flatMap((f) => f.shapes)
            .slice(0, 2000),
        };
        const answer = await call(VIEWS.pose, { id: picture.id }, { body: request });
        if (!answer.sure) {
          setMessage(
            `Not sure: the best pose agrees only ${Math.round(100 * Math.max(0, answer.agreement))} %, so the piece stays where you put it. Bring it nearer to its place, or set its pose by hand.`,
          );
          return;
        }
        const { turn, mirror, agreement } = answer;
        const scale = Math.min(4, Math.max(0.25, answer.scale));
        // The solved place is that of the middle of the piece's box.
        changeFloating({
          ...from,
          at: answer.at,
          pose: { turn: round(turn, 1000), scale: round(scale, 10000), mirror },
          agreement,
        });
      } catch (error) {
        setMessage((error as Error).message);
      } finally {
        setSolving(false);
      }
    },
    [floating, picture, state, changeFloating, setMessage],
  );

  solve.current = solvePose;

  return {
    floating,
    changeFloating,
    lift,
    liftTwin,
    askForTwin,
    takeUp,
    putDown,
    bending,
    setBending,
    solvePose,
    solving,
  };
}
