import { bytes, count, duration, megapixels, millimetres, percent, plural } from './format.ts';

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

test('one thing is one, others are more', () => {
  expect([plural(0, 'repair'), plural(1, 'repair'), plural(2500, 'fault')]).toEqual([
    '0 repairs',
    '1 repair',
    '2\u202f500 faults',
  ]);
});
