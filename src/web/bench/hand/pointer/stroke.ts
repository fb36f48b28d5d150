import type { StrokePoint } from '../../../../core/mask/strokes.ts';
import type { Begin } from './drag.ts';

/** Least px on the screen from point to point of a stroke. */
const STEP = 1;

const pressureOf = (e: { pointerType: string; pressure: number }) => (e.pointerType === 'pen' ? e.pressure : 1);

/** Paints with the brush. */
export const stroke: Begin = (p, e, sheet) => {
  const { at, apart } = sheet;
  if (!sheet.hand.startStroke(p[0], p[1], pressureOf(e), e.shiftKey)) return null;
  return {
    move(_, { nativeEvent, timeStamp }) {
      const fresh: StrokePoint[] = [];
      const events = nativeEvent.getCoalescedEvents?.() ?? [];
      for (const c of events.length ? events : [nativeEvent]) {
        const q = at(c);
        const last = fresh.at(-1) ?? sheet.hand.live.current?.at(-1);
        if (!last || apart(q, [last[0], last[1]]) > STEP) fresh.push([q[0], q[1], pressureOf(c)]);
      }
      sheet.hand.preview.moved(timeStamp);
      sheet.hand.extendStroke(fresh);
    },
    end: () => sheet.hand.endStroke(),
    drop: () => sheet.hand.dropStroke(),
  };
};
