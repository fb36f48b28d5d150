import { useState } from 'react';
import { PICTURES, VIEWS } from '../../contract/addresses.ts';
import type { SubjectMarks } from '../../core/find/subject.ts';
import { boundsWithin, boxShape, type Shape } from '../../core/mask/shapes.ts';
import { boxOf, grow, isEmpty, union, type Box } from '../../core/raster/raster.ts';
import { call, useAnswer } from '../lib/http.ts';

const NOTHING: Shape[] = [];

/** What the picture is about: marked roughly, its edge found, and set right by what is surely part of it or not. */
export function useSubject(id: string, source: Pick<Box, 'width' | 'height'>) {
  const { data: shapes = NOTHING, mutate } = useAnswer(PICTURES.subject, { id });
  const [marks, setMarks] = useState<SubjectMarks | null>(null);
  const [said, setSaid] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const bounds = boundsWithin(shapes, boxOf(source));

  const save = async (next: Shape[]) => {
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
      await save([]);
    },
  };
}
