import type { PictureState } from '../../contract/api.ts';
import type { Fault } from '../../contract/document.ts';
import type { StretchSpec } from '../../core/repair/spec.ts';
import { drawnOf, standsBy } from './standing.ts';
import type { Way } from './ways.ts';

const CANVAS = { x: -200, y: 0, width: 1200, height: 600 };
const wayOf = (way: Way['way']) => ({ way, set: { canvas: CANVAS, turn: null } }) as Way;

/** A picture of 800 × 600 px on a canvas that adds 200 px at both sides, whose gap is like that. */
function pictureOf(gap: Fault['state'], spec?: Partial<StretchSpec>): PictureState {
  const box = { op: 'add', kind: 'box', x: -200, y: 0, width: 200, height: 600 };
  const repairs = spec
    ? [{ id: 'r', faultIds: ['g'], chosen: 't', tries: [{ id: 't', spec: { method: 'stretch', ...spec } }] }]
    : [];
  const steps = [{ id: 's', spec: { step: 'canvas', box: CANVAS } }];
  return {
    document: { faults: [{ id: 'g', kind: 'gap', state: gap, shapes: [box] }], repairs, layers: [], steps },
  } as unknown as PictureState;
}

test('a canvas stands by the way that filled it, and by none as long as a gap is open: it can be filled again', () => {
  const filled = pictureOf('treated');
  expect(standsBy(filled, wayOf('extend'), null, 'smooth')).toEqual({ framed: true, stands: true });
  expect(standsBy(filled, wayOf('stretch'), null, 'smooth')).toEqual({ framed: true, stands: false });
  const stopped = pictureOf('open');
  expect(standsBy(stopped, wayOf('extend'), null, 'smooth')).toEqual({ framed: true, stands: false });
  expect(standsBy(filled, { ...wayOf('extend'), set: { canvas: { ...CANVAS, x: -100 }, turn: null } }, null, 'smooth')).toEqual({ framed: false, stands: false }); // prettier-ignore
});

test('drawn out as asked it stands by stretching; in part, once the rest is filled, by the mixed way', () => {
  const onto = { ...CANVAS };
  const all = pictureOf('treated', { onto });
  const drawn = drawnOf({ method: 'stretch', onto } as StretchSpec, CANVAS);
  expect(drawn).toBe('all');
  expect(standsBy(all, wayOf('stretch'), drawn, 'smooth').stands).toBe(true);
  expect(standsBy(all, wayOf('stretch'), drawn, 'seams').stands).toBe(false);
  expect(standsBy(all, wayOf('extend'), drawn, 'smooth').stands).toBe(false);
  const some = { ...CANVAS, x: -50, width: 1050 };
  expect(drawnOf({ method: 'stretch', onto: some } as StretchSpec, CANVAS)).toBe('some');
  const part = (gap: Fault['state']) => pictureOf(gap, { onto: some });
  expect(standsBy(part('treated'), wayOf('mixed'), 'some', 'smooth').stands).toBe(true);
  expect(standsBy(part('open'), wayOf('mixed'), 'some', 'smooth').stands).toBe(false);
});
