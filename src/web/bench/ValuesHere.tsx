import { useEffect, useState } from 'react';
import styled from 'styled-components';
import { VIEWS } from '../../contract/addresses.ts';
import type { Values } from '../../contract/views.ts';
import { call } from '../lib/http.ts';
import { stampOf } from '../lib/stamp.ts';
import { theme } from '../theme.ts';
import { useBench } from './useBench.ts';

const Line = styled.span`
  font: 11.5px ${theme.figures};
  color: ${theme.quiet};
  white-space: nowrap;
  flex: none;
`;

/** ms for which the pointer rests before values are asked for. */
const RESTS = 70;

/** Place and values under the pointer, and how far they are from the picture as it came. */
export function ValuesHere() {
  const { state, navigation } = useBench();
  const { viewer } = navigation;
  const [at, setAt] = useState<[number, number] | null>(null);
  const [values, setValues] = useState<Values | null>(null);
  const { id } = state.picture;
  const v = stampOf(state.pixels);
  useEffect(() => {
    const host = viewer?.viewer.element.parentElement;
    if (!host) return;
    const move = (e: PointerEvent) => {
      const box = host.getBoundingClientRect();
      const [x, y] = viewer.toImage(e.clientX - box.left, e.clientY - box.top);
      setAt([Math.floor(x), Math.floor(y)]);
    };
    const leave = () => setAt(null);
    host.addEventListener('pointermove', move);
    host.addEventListener('pointerleave', leave);
    return () => {
      host.removeEventListener('pointermove', move);
      host.removeEventListener('pointerleave', leave);
    };
  }, [viewer]);
  const [x, y] = at ?? [NaN, NaN];
  useEffect(() => {
    if (Number.isNaN(x)) return setValues(null);
    const asking = new AbortController();
    const timer = setTimeout(() => {
      call(VIEWS.values, { id }, { query: { x, y, v }, signal: asking.signal })
        .then(setValues)
        .catch(() => undefined);
    }, RESTS);
    return () => {
      clearTimeout(timer);
      asking.abort();
    };
  }, [id, x, y, v]);
  if (!at) return null;
  return (
    <Line aria-hidden title="Place in px, values, and the difference to the picture as it came (CIEDE2000)">
      {x}, {y} px
      {values && ` · ${values.after.join(' ')}`}
      {values?.difference !== null && values?.difference !== undefined && ` · ΔE ${values.difference.toFixed(1)}`}
    </Line>
  );
}
