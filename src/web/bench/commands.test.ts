import { BY_KEY, COMMANDS, type Command } from './commands.ts';
import type { Bench } from './useBench.ts';

const PRESS = { shift: false, again: false };
const press = (key: string, bench: object, how = PRESS) => {
  const { command, n } = BY_KEY.get(key)!;
  command.run(bench as Bench, n, how);
};

test('no key does two things, and every key of the list does one', () => {
  const keys = Object.values<Command>(COMMANDS).flatMap((c) => c.keys);
  expect(new Set(keys.map((k) => k.toLowerCase())).size).toBe(keys.length);
  expect(BY_KEY.size).toBe(keys.length);
});

test('digits pick verbs; next and previous, zoom and turn go both ways', () => {
  const said: unknown[] = [];
  const bench = {
    pickVerb: (v: string) => said.push(v),
    treating: { next: (by: number) => said.push(by), fill: () => said.push('fill') },
    navigation: {
      handle: { current: { scale: () => 2, zoomTo: (to: number) => said.push(to) } },
      turnBy: (by: number) => said.push(by),
    },
  };
  for (const key of ['1', '2', '3', '4', '5', '6', '7', '8', '9', '0']) press(key, bench);
  expect(said.splice(0)).toEqual([
    'look',
    'mark',
    'fill',
    'copy',
    'blend',
    'trace',
    'patch',
    'transplant',
    'shade',
    'reveal',
  ]);
  for (const key of ['n', 'p', '+', '-', 'k', 'j']) press(key, bench);
  press('k', bench, { shift: true, again: false });
  expect(said).toEqual([1, -1, 3, 2 / 1.5, 3, -3, 15]);
});

test('Enter ends what is begun: what floats before what is drawn, and that before accepting', () => {
  const said: string[] = [];
  const bench = {
    hand: { floating: {}, putDown: () => said.push('put down') },
    draft: [[1, 2]],
    marking: { tool: 'corners', finish: () => said.push('finish') },
    repair: {},
    fault: {},
    treating: { settle: (as: string) => said.push(as) },
  };
  press('enter', bench);
  press('enter', { ...bench, hand: { floating: null } });
  press('enter', { ...bench, hand: { floating: null }, draft: [] });
  press('enter', { ...bench, hand: { floating: null }, draft: [], repair: undefined });
  expect(said).toEqual(['put down', 'finish', 'accepted']);
});

test('add to and take from need one chosen fault; Escape leaves the whole window before it drops anything', () => {
  const said: unknown[] = [];
  const bench = { setInto: (into: string) => said.push(into), faults: [{}, {}] };
  for (const key of ['a', 's', 'z']) press(key, bench);
  expect(said.splice(0)).toEqual(['new']);
  for (const key of ['s', 'z']) press(key, { ...bench, faults: [{}] });
  expect(said.splice(0)).toEqual(['add', 'take']);
  const whole = { whole: true, toggleWhole: (on: boolean) => said.push(on), drop: () => said.push('drop') };
  press('escape', whole);
  press('escape', { ...whole, whole: false });
  expect(said).toEqual([false, 'drop']);
});
