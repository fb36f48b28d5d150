import { useState } from 'react';
import useSWR from 'swr';
import { PICTURES, VIEWS } from '../../contract/addresses.ts';
import type { SubjectMarks } from '../../core/find/subject.ts';
import { boundsWithin, boxShape, type Shape } from '../../core/mask/shapes.ts';
import { boxOf, grow, isEmpty, union, type Box } from '../../core/raster/raster.ts';
import { addressOf } from '../../contract/endpoint.ts';
import { call, useAnswer } from '../lib/http.ts';

const NOTHING: Shape[] = [];

/** What the picture is likely to be about, where nobody outlined it: null where nothing stands out, undefined while it is looked for. */
function useProposed(id: string, v: string, isAsked: boolean): Shape[] | null | undefined {
  const address = isAsked ? addressOf(VIEWS.subjectProposal, { id }, { v }) : null;
  const { data, error } = useSWR<Shape[] | null, Error>(
    address,
    () => call(VIEWS.subjectProposal, { id }, { query: { v } }),
    { revalidateOnFocus: false, keepPreviousData: true },
  );
  return error ? null : data;
}

/**
 * What the picture is about: proposed, or marked roughly and its edge found, and set right by what is surely part of it or not.
 * @param v stamp of its pixels
 */
export function useSubject(id: string, source: Pick<Box, 'width' | 'height'>, v: string) {
  const { data: known, mutate } = useAnswer(PICTURES.subject, { id });
  const shapes = known ?? NOTHING;
  const found = useProposed(id, v, known !== undefined && !known?.length);
  const [marks, setMarks] = useState<SubjectMarks | null>(null);
  const [said, setSaid] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const bounds = boundsWithin(shapes, boxOf(source));

  const save = async (next: Shape[] | null) => {
    await mutate(next, { revalidate: false });
    await call(PICTURES.setSubject, { id }, { body: { shapes: next } });
  };
  /** Finds its edge; until then it is what is drawn, where that is given. */
  const follow = async (next: SubjectMarks, drawn?: Shape[]) => {
    setMarks(next);
    setBusy(true);
    setSaid(null);
    try {
      if (drawn) await save(drawn);
      const { within, keep, leave } = next;
      const found = await call(VIEWS.subjectEdge, { id }, { body: { within, keep: [...keep], leave: [...leave] } });
      await save(found.length ? found : [boxShape(within)]);
      if (!found.length) setSaid('No edge stands out within it: all of the box is taken for it.');
    } catch (error) {
      setSaid((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  return {
    shapes,
    /** nobody has said yet what it is: what is proposed waits for an answer */
    asks: known === null,
    /** it was said that there is none */
    none: known?.length === 0,
    found,
    /** what lends nothing to a fill: the subject, or what stands out */
    lendsNothing: shapes.length ? shapes : (found ?? NOTHING),
    accept: () => save(found ?? []),
    sayNone: () => save([]),
    /** the box around it; null where there is none */
    box: isEmpty(bounds) ? null : bounds,
    busy,
    said,
    /** It is marked roughly. */
    draw: (box: Box) => follow({ within: box, keep: [], leave: [] }, [boxShape(box)]),
    /** Something is surely part of it, or surely not. */
    mark: (which: 'keep' | 'leave', box: Box) => {
      const round = Math.round(0.04 * Math.max(bounds.width, bounds.height));
      const own = marks ?? { within: grow(bounds, round), keep: NOTHING, leave: NOTHING };
      const within = which === 'keep' ? union(own.within, grow(box, round)) : own.within;
      return follow({ ...own, within, [which]: [...own[which], boxShape(box)] });
    },
    forget: async () => {
      setMarks(null);
      setSaid(null);
      await save(null);
    },
  };
}
