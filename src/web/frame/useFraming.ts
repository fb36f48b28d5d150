import { useMemo, useState } from 'react';
import useSWR from 'swr';
import type { PictureState } from '../../contract/api.ts';
import { fillRequestSchema } from '../../contract/api.ts';
import { VIEWS } from '../../contract/addresses.ts';
import { addressOf } from '../../contract/endpoint.ts';
import {
  proportionOf,
  sizeOf,
  type Placement,
  type PlaceName,
  type SubjectPlace,
  type Wanted,
} from '../../core/frame/format.ts';
import { focusOf } from '../../core/frame/focus.ts';
import { leanOfLine, type Lean } from '../../core/frame/level.ts';
import { boundsWithin, type Point, type Shape } from '../../core/mask/shapes.ts';
import type { Viewing } from '../../core/frame/visibility.ts';
import { isEmpty, type Box } from '../../core/raster/raster.ts';
import type { StretchWay } from '../../core/repair/spec.ts';
import { call } from '../lib/http.ts';
import type { Edits } from '../lib/edits.ts';
import { stampOf } from '../lib/stamp.ts';
import type { Drawn } from './FrameSheet.tsx';
import { keepLines, keptLines, type GuideLines } from './guide-lines.ts';
import { drawnOf, standingCanvas, standsBy, stretchSpec, turnedBy } from './standing.ts';
import { proposalOf, type FrameProposal } from './proposal.ts';
import type { FillAreas } from './useFillAreas.ts';
import { useStrip } from './useStrip.ts';
import { useSubject } from './useSubject.ts';
import { useWayViews } from './useWayViews.ts';
import { worstOf } from './way-words.ts';
import {
  cropWay,
  extendWay,
  mixedWay,
  ontoOf,
  raggedWhole,
  standingWay,
  stretchWay,
  type Asked,
  type DrawnOver,
  type Way,
  type Ways,
} from './ways.ts';

/** What of the subject is to stand on a third. */
export const FOCUS = { middle: 0.5, head: 0.14 } as const;
export type Focus = keyof typeof FOCUS;

/** What the proportion of a picture as it is goes by. */
export const AS_IT_IS = 'as it is';
/** What is written by hand: a proportion, a size on paper, pixels. */
export const OWN = 'own';
export const PRINT = 'print';
export const PIXELS = 'pixels';
export const WRITTEN: readonly string[] = [OWN, PRINT, PIXELS];

/** Resolution that is asked of a print when nothing else is said, px per inch. Common practice. */
export const USUAL_PPI = 300;

/** What is asked for beside the proportion; null where that is all. */
function wantedOf(format: string, own: string, ppi: number): Wanted | null {
  const size = format === PRINT || format === PIXELS ? sizeOf(own) : null;
  return size && (format === PRINT ? { by: 'print', ...size, ppi } : { by: 'pixels', ...size });
}

/** How far the picture leans, found by the server. */
function useLean(state: PictureState): { lean: Lean | null | undefined } {
  const { id } = state.picture;
  const v = stampOf(state.pixels);
  const { data } = useSWR(addressOf(VIEWS.lean, { id }, { v }), () => call(VIEWS.lean, { id }, { query: { v } }), {
    revalidateOnFocus: false,
    keepPreviousData: true,
  });
  return { lean: data };
}

/** What is asked of the frame, as it is set. */
function useAsked(state: PictureState, areas: FillAreas) {
  const { facts, id } = state.picture;
  const [format, setFormat] = useState<string>(AS_IT_IS);
  const [own, setOwn] = useState('');
  const [ppi, setPpi] = useState(USUAL_PPI);
  const [looks, setLooks] = useState<SubjectPlace['looks']>(0);
  const [across, setAcross] = useState<PlaceName | null>(null);
  const [down, setDown] = useState<PlaceName | null>(null);
  const [focus, setFocus] = useState<Focus>('head');
  const [degrees, setDegrees] = useState(() => turnedBy(state));
  const [lines, showLines] = useState(keptLines);
  const setLines = (on: GuideLines) => {
    showLines(on);
    keepLines(on);
  };
  const [draws, setDraws] = useState<Drawn>(null);
  const marked = useSubject(id, facts, stampOf(state.pixels));
  const { x, y, width, height } = marked.box ?? { x: 0, y: 0, width: 0, height: 0 };
  const subject = useMemo<SubjectPlace | null>(() => {
    const box = { x, y, width, height };
    return width > 0 ? { box, focus: focusOf(marked.shapes, box, FOCUS[focus]), looks } : null;
  }, [marked.shapes, x, y, width, height, focus, looks]);
  const proportion = format === AS_IT_IS ? null : proportionOf(WRITTEN.includes(format) ? own : format);
  const wanted = wantedOf(format, own, ppi);
  const placement: Placement = { across, down };
  const isAsked = format !== AS_IT_IS || across !== null || down !== null || degrees !== 0;

  const onDrawn = (from: Point, to: Point) => {
    setDraws(null);
    if (draws === 'line') {
      setDegrees(Math.max(-45, Math.min(45, Math.round(leanOfLine(from, to) * 100) / 100)));
      return;
    }
    const [left, top] = [Math.min(from[0], to[0]), Math.min(from[1], to[1])].map(Math.round);
    const size = { width: Math.round(Math.abs(from[0] - to[0])), height: Math.round(Math.abs(from[1] - to[1])) };
    const box: Box = { x: left, y: top, ...size };
    if (draws === 'donor' || draws === 'barred' || draws === 'guide') areas.draw(draws, from, to);
    else if (draws === 'keep' || draws === 'leave') void marked.mark(draws, box);
    else void marked.draw(box);
  };
  return {
    facts, format, setFormat, own, setOwn, ppi, setPpi, wanted, looks, setLooks, across, setAcross, down, setDown, focus, setFocus, degrees, setDegrees,
    lines, setLines, draws, setDraws, proportion, subject, marked, placement, isAsked, onDrawn,
  }; // prettier-ignore
}

/** The ways to what is asked; the one that the picture stands on already in its place. */
function waysTo(
  state: PictureState,
  asked: Asked,
  isAsked: boolean,
): { ways: Ways; stood: Way | null; drawn: DrawnOver } {
  const { facts } = state.picture;
  const ways: Ways = {
    crop: cropWay(facts, asked),
    extend: extendWay(facts, asked),
    stretch: stretchWay(facts, asked),
    mixed: mixedWay(facts, asked),
  };
  const canvas = state.document.steps.map((s) => s.spec).find((s) => s.step === 'canvas')?.box ?? null;
  const drawn = drawnOf(stretchSpec(state), canvas);
  const standing = isAsked ? null : standingCanvas(state);
  const stood = standing && standingWay(facts, standing, asked.subject, drawn);
  if (stood) ways[stood.way] = stood;
  return { ways, stood, drawn };
}

/** All that is asked of the frame, and what follows from it. */
export function useFraming(
  state: PictureState,
  edits: Edits,
  viewing: Viewing,
  { areas, documentary }: { areas: FillAreas; documentary: boolean },
) {
  const asking = useAsked(state, areas);
  const { facts, proportion, placement, subject, degrees, marked } = asking;
  const { shapes } = marked;
  const [taken, setTaken] = useState<Way['way'] | null>(null);
  const [by, setBy] = useState<StretchWay>(() => stretchSpec(state)?.way ?? 'smooth');
  const { lean } = useLean(state);
  const strip = useStrip(state, edits, shapes);
  const { ways, stood, drawn } = waysTo(state, { proportion, placement, subject, degrees }, asking.isAsked);
  const standing = stood && standsBy(state, stood, drawn, by).stands ? stood.way : null;
  const lending = { donorArea: areas.donorArea, barred: [...marked.lendsNothing, ...areas.barred], edges: areas.edges };
  const waits = marked.busy || marked.asks;
  const lookAt = useWayViews(state, ways, { subject: shapes, by, standing, waits, areas: lending });
  const worst = (w: Way) => worstOf(lookAt(w), viewing);
  const proposal: FrameProposal = stood
    ? { way: stood, reason: 'The picture is framed like this.' }
    : proposalOf(ways, { source: facts, subject, worstOf: worst, documentary });
  // What is proposed is looked at until somebody chooses.
  const way = (taken && ways[taken]) ?? proposal.way;
  const { framed: isFramedSo, stands: isThere } = standsBy(state, way, drawn, by);
  const [isTaking, setTaking] = useState(false);
  const stands = isThere || (isFramedSo && isTaking);

  /** Draws the background out over a gap, as far as the way goes. @returns the gap that is left */
  const drawOut = async (gap: string): Promise<string | undefined> => {
    const guard: Shape[] = subject ? [{ op: 'add', kind: 'box', ...subject.box }] : [];
    const onto = way.way === 'mixed' ? ontoOf(way, facts, subject) : undefined;
    const done = await edits.edit({ type: 'stretch', faultIds: [gap], guard, way: by, onto });
    return onto && done?.document.faults.findLast((f) => f.kind === 'gap' && f.state === 'open')?.id;
  };
  /** Frames the picture, and fills what that adds away from the subject, or draws the background out over it. */
  const goWay = async () => {
    // What was drawn out goes before the same canvas is filled.
    if (isFramedSo && drawn) await edits.edit({ type: 'reframe', canvas: null, turn: null });
    const next = isFramedSo && !drawn ? state : await edits.edit({ type: 'reframe', ...way.set });
    const gaps = next?.document.faults.filter((f) => f.kind === 'gap') ?? [];
    const gap = gaps.findLast((f) => f.state === 'open') ?? (way.way === 'extend' ? undefined : gaps.at(-1));
    if (way.way === 'crop' || !gap) return;
    const toFill = way.way === 'extend' ? gap.id : await drawOut(gap.id);
    if (toFill) {
      areas.settle();
      await edits.fill(fillRequestSchema.parse({ faultIds: [toFill], ...lending }));
    }
  };
  const take = async () => {
    setTaking(true);
    setTaken(way.way);
    try {
      await goWay();
    } finally {
      setTaking(false);
    }
  };
  /** The largest part without gaps of a picture that was joined, where that is not all of it nor what stands already. */
  const whole = state.picture.joined && raggedWhole(state.picture.joined.account, state.document);
  const cutRagged = async () => {
    if (whole) await edits.edit({ type: 'reframe', canvas: whole, turn: null });
  };
  /** In between of cutting and filling, where that is neither. */
  const account = state.picture.joined?.account;
  const between = whole && account?.between && account.between.gaps > 0 ? account.between : null;
  const cutBetween = async () => {
    if (!between) return;
    const { gaps: _, ...canvas } = between;
    const next = (await edits.edit({ type: 'reframe', canvas, turn: null })) ?? state;
    const open = next.document.faults.filter(
      (f) => f.kind === 'gap' && f.state === 'open' && !isEmpty(boundsWithin(f.shapes, canvas)),
    );
    for (const { id } of open) await edits.fill(fillRequestSchema.parse({ faultIds: [id] }));
  };
  const back = () => void edits.edit({ type: 'reframe', canvas: null, turn: null });
  const onStrip = (from: Point, to: Point) => {
    asking.setDraws(null);
    strip.draw(from, to);
  };
  const isFramed = state.document.steps.length > 0;
  return {
    ...asking, onDrawn: asking.draws === 'strip' ? onStrip : asking.onDrawn, strip, lean, ways, way, proposal, taken, setTaken, by, setBy, take, isTaking, back, whole, cutRagged, between, cutBetween, isFramed, stands, lookAt, areas,
  }; // prettier-ignore
}

export type Framed = ReturnType<typeof useFraming>;
