import type { PictureState } from '../../contract/api.ts';
import { toldOf } from './told.ts';

const viewing = { longSideMm: 300, distanceMm: 450 };
const sign = (difference: number) => ({
  kind: 'seam',
  box: { x: 0, y: 0, width: 40, height: 8 },
  figure: 2,
  unit: 'times',
  difference,
  across: 3,
  along: 60,
  remedy: 'other-try',
});
const fault = (id: string, state: string, size = 40, number = 1) => ({
  id,
  number,
  state,
  kind: 'object',
  margin: 2,
  feather: 0,
  shapes: [{ op: 'add', kind: 'box', x: 100, y: 100, width: size, height: size }],
});
const repair = (id: string, faultId: string, set = {}) => ({
  id,
  layerId: 'l',
  chosen: `${id}t`,
  faultIds: [faultId],
  tries: [],
  strength: 1,
  visible: true,
  ...set,
});
const status = (id: string, signs?: unknown[], state = 'shown') => ({
  id,
  state,
  tries: { [`${id}t`]: { ready: true, signs } },
});
const stateOf = (faults: unknown[], repairs: unknown[], statuses: unknown[]) =>
  ({
    picture: { facts: { width: 3000, height: 2000 } },
    document: { faults, repairs, layers: [{ id: 'l', visible: true, opacity: 1 }], steps: [] },
    statuses,
  }) as unknown as PictureState;

test('what would be seen comes worst first, what can hardly be seen apart', () => {
  const state = stateOf(
    [fault('a', 'treated'), fault('b', 'treated'), fault('c', 'treated')],
    [repair('ra', 'a'), repair('rb', 'b'), repair('rc', 'c')],
    [status('ra', [sign(8)]), status('rb', [sign(30)]), status('rc', [sign(1.5)])],
  );
  const { seen, faint, waiting } = toldOf(state, viewing);
  expect(seen.map((t) => t.fault?.id)).toEqual(['b', 'a']);
  expect(faint.map((t) => t.fault?.id)).toEqual(['c']);
  expect(waiting).toBe(0);
});

test('what was accepted counts no more; what is not measured is waited for; what does not show is not judged', () => {
  const state = stateOf(
    [fault('a', 'accepted'), fault('b', 'treated'), fault('c', 'treated')],
    [repair('ra', 'a'), repair('rb', 'b'), repair('rc', 'c', { visible: false })],
    [status('ra', [sign(30)]), status('rb'), status('rc', [sign(30)])],
  );
  const { seen, accepted, waiting } = toldOf(state, viewing);
  expect(accepted.map((t) => t.fault?.id)).toEqual(['a']);
  expect(waiting).toBe(1);
  expect(seen.map((t) => [t.kind, t.repairId])).toEqual([['unfinished', 'rc']]);
});

test('open faults that would be seen are unfinished, those too small are not, nor those that were left', () => {
  const state = stateOf([fault('a', 'open'), fault('b', 'open', 1), fault('c', 'left')], [], []);
  expect(toldOf(state, viewing).seen.map((t) => [t.kind, t.fault?.id])).toEqual([['unfinished', 'a']]);
});

test('a repair that failed is told with the reason', () => {
  const failed = { ...status('ra', undefined, 'failed'), message: 'The donor lies off the picture.' };
  const { seen } = toldOf(stateOf([fault('a', 'treated')], [repair('ra', 'a')], [failed]), viewing);
  expect(seen.map((t) => t.advice)).toEqual(['The donor lies off the picture.']);
});
