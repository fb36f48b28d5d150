import type { PictureDocument } from '../../contract/document.ts';
import { bytes, count, duration, megapixels, millimetres, percent, plural } from './format.ts';
import { optimistic } from './pending.ts';

test('figures as people read them', () => {
  expect(count(1234567)).toBe('1\u202f234\u202f567');
  expect([megapixels(4000, 3000), bytes(900), bytes(2_340_000), bytes(340_000_000)]).toEqual([
    '12.0 MP',
    '1 kB',
    '2.3 MB',
    '340 MB',
  ]);
  expect([millimetres(1.26), millimetres(117.4), millimetres(12.8, 0.66)]).toEqual(['1.3 mm', '117 mm', '13 × 0.7 mm']);
  expect([percent(0), percent(0.004), percent(0.05), percent(0.5)]).toEqual(['0 %', '0.40 %', '5.0 %', '50 %']);
  expect([duration(0.05), duration(0.5), duration(12.4), duration(89), duration(150)]).toEqual([
    '3 s',
    '30 s',
    '12 min',
    '89 min',
    '2 h 30 min',
  ]);
});

test('an edit that only sets values shows before it is answered; others wait; nothing is changed in place', () => {
  const document: PictureDocument = {
    faults: [
      { id: 'fault0001', number: 1, kind: 'speck', shapes: [], margin: 1, feather: 0, state: 'open' },
      { id: 'fault0002', number: 2, kind: 'hair', shapes: [], margin: 1, feather: 0, state: 'open' },
    ],
    layers: [{ id: 'layer0001', name: 'Specks', order: 1, opacity: 1, visible: true }],
    repairs: [],
  };
  const before = JSON.stringify(document);
  const left = optimistic(document, { type: 'changeFault', id: 'fault0002', set: { state: 'left' } });
  expect(left.faults.map((f) => f.state)).toEqual(['open', 'left']);
  expect(left.layers).toBe(document.layers);
  const hidden = optimistic(left, { type: 'changeLayer', id: 'layer0001', set: { visible: false } });
  expect([hidden.layers[0].visible, hidden.faults[1].state]).toEqual([false, 'left']);
  expect(optimistic(document, { type: 'removeFault', id: 'fault0001' })).toBe(document);
  expect(JSON.stringify(document)).toBe(before);
});

test('one thing is one, others are more', () => {
  expect([plural(0, 'repair'), plural(1, 'repair'), plural(2500, 'fault')]).toEqual([
    '0 repairs',
    '1 repair',
    '2\u202f500 faults',
  ]);
});
