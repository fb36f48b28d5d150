import { proportionOf, type Placement, type SubjectPlace } from '../../core/frame/format.ts';
import { isOnPlace } from '../../core/frame/framing.ts';
import { proposalOf } from './proposal.ts';
import { cropWay, extendWay, mixedWay, stretchWay, type Asked, type Way, type Ways } from './ways.ts';

const SOURCE = { width: 3000, height: 2400 };
const subject: SubjectPlace = { box: { x: 1300, y: 300, width: 400, height: 1900 }, focus: [1500, 500], looks: 0 };
const free: Placement = { across: null, down: null };

function waysTo(proportion: string, set: Partial<Asked> = {}): { ways: Ways; asked: Asked } {
  const asked = { proportion: proportionOf(proportion), placement: free, subject, degrees: 0, ...set };
  const ways = { crop: cropWay(SOURCE, asked), extend: extendWay(SOURCE, asked), stretch: stretchWay(SOURCE, asked), mixed: mixedWay(SOURCE, asked) }; // prettier-ignore
  return { ways, asked };
}

/** What is proposed once ways were tried with these severities; a way that is left out was not tried yet. */
function proposed(
  proportion: string,
  tried: Partial<Record<Way['way'], number>>,
  set: Partial<Asked> & { documentary?: boolean } = {},
) {
  const { documentary, ...rest } = set;
  const { ways, asked } = waysTo(proportion, rest);
  const worstOf = (w: Way) => tried[w.way];
  return proposalOf(ways, { source: SOURCE, subject: asked.subject, worstOf, documentary });
}

test('the picture’s own proportion needs nothing', () => {
  expect(proposed('5:4', {})).toMatchObject({ way: { way: 'crop' }, reason: 'Nothing is lost and nothing is added.' });
});

test('a stretch in which Check finds nothing comes first, but not one that draws the background out too far', () => {
  expect(proposed('16:9', { stretch: 0, extend: 0, mixed: 0 }).way.way).toBe('stretch');
  expect(proposed('16:9', { stretch: 3, extend: 0 }).way.way).toBe('extend');
  // Three times as wide as high the background is drawn out more than twice.
  const { way } = proposed('3:1', { stretch: 0, extend: 0, mixed: 3 });
  expect(way.way).toBe('extend');
});

test('a way that Check objects to is not proposed while there is a clean one', () => {
  expect(proposed('16:9', { stretch: 3, extend: 3, mixed: 0.2 }).way.way).toBe('mixed');
  // Of the ways that add something none is clean: the crop leaves the subject whole.
  const crop = proposed('3:2', { stretch: 3, extend: 3, mixed: 3 });
  expect(crop.way.way).toBe('crop');
  // A crop that cuts it is no clean way either: then what shows least.
  const tall: SubjectPlace = { ...subject, box: { ...subject.box, y: 0, height: 2400 } };
  const least = proposed('16:9', { stretch: 5, extend: 4, mixed: 6 }, { subject: tall });
  expect(least.way.way).toBe('extend');
  expect(least.reason).toBe('A crop would cut the subject. Every way would show; this one least.');
});

test('until ways are tried the one by which nothing of the subject is lost is looked at', () => {
  const tall: SubjectPlace = { ...subject, box: { ...subject.box, y: 0, height: 2400 } };
  expect(proposed('16:9', {}, { subject: tall })).toMatchObject({
    way: { way: 'extend' },
    reason: 'A crop would cut the subject.',
  });
  expect(proposed('3:2', {}).reason).toBe('A crop loses 17 % and leaves the subject whole.');
});

test('without a subject nothing is stretched', () => {
  const { ways } = waysTo('16:9', { subject: null });
  expect([ways.stretch, ways.mixed]).toEqual([null, null]);
  expect(proposed('16:9', { extend: 0 }, { subject: null }).way.way).toBe('extend');
  expect(proposed('16:9', { extend: 9 }, { subject: null }).way.way).toBe('crop');
});

test('nothing is proposed that leaves the subject off the asked third', () => {
  for (const across of ['first third', 'second third'] as const)
    for (const tried of [{}, { stretch: 0, extend: 0, mixed: 0 }, { stretch: 9, extend: 9, mixed: 9 }]) {
      const { way } = proposed('1:1', tried, { placement: { across, down: 'first third' } });
      expect(isOnPlace(way.framing)).toBe(true);
    }
});

test('a documentary job is cropped rather than added to', () => {
  const { way, reason } = proposed('3:2', { stretch: 0, extend: 0 }, { documentary: true });
  expect(way.way).toBe('crop');
  expect(reason).toContain('changes nothing in the scene');
});
