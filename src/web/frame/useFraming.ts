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
import { leanOfLine, type Lean } from '../../core/frame/level.ts';
import type { Point } from '../../core/mask/shapes.ts';
import type { Box } from '../../core/raster/raster.ts';
import type { StretchWay } from '../../core/repair/spec.ts';
import { stretchesOf } from '../../document/edits/stretch.ts';
import { alike } from '../../document/operations.ts';
import { call } from '../lib/http.ts';
import type { Edits } from '../lib/edits.ts';
import { stampOf } from '../lib/stamp.ts';
import type { Drawn } from './FrameSheet.tsx';
import { cropWay, extendWay, proposed, raggedWhole, standingWay, stretchWay, type Asked, type Way } from './ways.ts';

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

/** Degrees that a picture is turned as its steps stand. */
const turnedBy = (state: PictureState): number =>
  state.document.steps.map((s) => s.spec).find((s) => s.step === 'turn')?.degrees ?? 0;

/** The canvas that a picture stands on, where it is not all of it and it is not turned; null otherwise. */
function standingCanvas({ document: { steps } }: PictureState): Box | null {
  const specs = steps.map((s) => s.spec);
  const canvas = specs.find((s) => s.step === 'canvas');
  return canvas && specs.length === 1 ? canvas.box : null;
}

/** How the background is drawn out as it stands; null where it is not. */
function stretchedBy({ document: { repairs } }: PictureState): StretchWay | null {
  const specs = repairs.flatMap((r) => r.tries.filter((t) => t.id === r.chosen).map((t) => t.spec));
  const spec = specs.find((s) => s.method === 'stretch');
  return spec ? (spec.way ?? 'smooth') : null;
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

/** All that is asked of the frame, and what follows from it. */
export function useFraming(state: PictureState, edits: Edits) {
  const { facts } = state.picture;
  const [format, setFormat] = useState<string>(AS_IT_IS);
  const [own, setOwn] = useState('');
  const [ppi, setPpi] = useState(USUAL_PPI);
  const [looks, setLooks] = useState<SubjectPlace['looks']>(0);
  const [across, setAcross] = useState<PlaceName | null>(null);
  const [down, setDown] = useState<PlaceName | null>(null);
  const [box, setBox] = useState<Box | null>(null);
  const [focus, setFocus] = useState<Focus>('head');
  const [degrees, setDegrees] = useState(() => turnedBy(state));
  const [draws, setDraws] = useState<Drawn>(null);
  const [taken, setTaken] = useState<Way['way'] | null>(null);
  const [by, setBy] = useState<StretchWay>(() => stretchedBy(state) ?? 'smooth');
  const { lean } = useLean(state);
  const proportion = format === AS_IT_IS ? null : proportionOf(WRITTEN.includes(format) ? own : format);
  const wanted = wantedOf(format, own, ppi);
  const subject = useMemo<SubjectPlace | null>(
    () => box && { box, focus: [box.x + box.width / 2, box.y + FOCUS[focus] * box.height], looks },
    [box, focus, looks],
  );
  const placement: Placement = { across, down };
  const asked: Asked = { proportion, placement, subject, degrees };
  const ways = { crop: cropWay(facts, asked), extend: extendWay(facts, asked), stretch: stretchWay(facts, asked) };
  const isAsked = format !== AS_IT_IS || across !== null || down !== null || degrees !== 0;
  const standing = isAsked ? null : standingCanvas(state);
  const isStretched = stretchesOf(state.document).length > 0;
  const stood = standing && standingWay(facts, standing, subject, isStretched);
  if (stood) ways[stood.way] = stood;
  const proposal = stood ? { way: stood, reason: 'It is framed like this.' } : proposed(ways, facts, subject);
  const way = ways[taken ?? proposal.way.way];

  const onDrawn = (from: Point, to: Point) => {
    if (draws === 'line') setDegrees(Math.max(-45, Math.min(45, Math.round(leanOfLine(from, to) * 100) / 100)));
    else {
      const [x, y] = [Math.min(from[0], to[0]), Math.min(from[1], to[1])].map(Math.round);
      setBox({ x, y, width: Math.round(Math.abs(from[0] - to[0])), height: Math.round(Math.abs(from[1] - to[1])) });
    }
    setDraws(null);
  };

  const isFramed = state.document.steps.length > 0;
  const steps = [
    way.set.canvas && { step: 'canvas', box: way.set.canvas },
    way.set.turn && { step: 'turn', ...way.set.turn },
  ];
  const isFramedSo = alike(
    state.document.steps.map((s) => s.spec),
    steps.filter((s) => s !== null),
  );
  /** the picture is framed like this already, this way */
  const isSo = isStretched ? way.way === 'stretch' && stretchedBy(state) === by : way.way !== 'stretch';
  const stands = isFramedSo && (way.way === 'crop' || !way.set.canvas || isSo);

  /** Frames the picture, and fills what that adds away from the subject, or draws the background out over it. */
  const take = async () => {
    // What was drawn out goes before the same canvas is filled.
    if (isFramedSo && isStretched) await edits.edit({ type: 'reframe', canvas: null, turn: null });
    const next = isFramedSo && !isStretched ? state : await edits.edit({ type: 'reframe', ...way.set });
    const gaps = next?.document.faults.filter((f) => f.kind === 'gap') ?? [];
    const gap = gaps.findLast((f) => f.state === 'open') ?? (way.way === 'stretch' ? gaps.at(-1) : undefined);
    if (way.way === 'crop' || !gap) return;
    const barred = box ? [{ op: 'add' as const, kind: 'box' as const, ...box }] : [];
    if (way.way === 'stretch')
      return void (await edits.edit({ type: 'stretch', faultIds: [gap.id], guard: barred, way: by }));
    await edits.fill(fillRequestSchema.parse({ faultIds: [gap.id], barred }));
  };
  /** The largest part without gaps of a picture that was joined, where that is not all of it nor what stands already. */
  const whole = state.picture.joined && raggedWhole(state.picture.joined.account, state.document);
  const cutRagged = async () => {
    if (whole) await edits.edit({ type: 'reframe', canvas: whole, turn: null });
  };
  const back = () => void edits.edit({ type: 'reframe', canvas: null, turn: null });
  return {
    facts, format, setFormat, own, setOwn, ppi, setPpi, wanted, looks, setLooks, across, setAcross, down, setDown, box, setBox, focus, setFocus, degrees, setDegrees,
    draws, setDraws, lean, proportion, subject, placement, ways, way, proposal, taken, setTaken, by, setBy, onDrawn, take, back, whole, cutRagged, isFramed, stands,
  }; // prettier-ignore
}

export type Framed = ReturnType<typeof useFraming>;
