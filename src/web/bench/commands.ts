import type { Bench } from './useBench.ts';
import { SHAPES } from './store.ts';

/** How a key was pressed. */
export interface Press {
  shift: boolean;
  /** it is held and comes again */
  again: boolean;
}

/** What can be done with keys: a line of the list of keys, and what each of its keys does. */
export interface Command {
  /** as the list of keys says it */
  text: string;
  /** as they are written on keys; several do variants of the same */
  keys: readonly string[];
  /** @param n place among the keys */
  run(bench: Bench, n: number, press: Press): void;
  /** left alone where a control has the focus, since it needs the key itself */
  notInControls?: true;
}

/** Farthest that keys zoom in. */
const NEAREST = 16;

const zoomBy = ({ navigation: { handle } }: Bench, by: number) => {
  const h = handle.current;
  h?.zoomTo(Math.min(NEAREST, h.scale() * by));
};

/** Marks or dabs at the cross in the middle. */
function workAtCross(bench: Bench, straight: boolean): void {
  const { hand, marking, draft, size } = bench;
  const middle = bench.navigation.middle();
  if (!middle) return;
  if (hand.mode) {
    bench.useKeys(true);
    if (hand.mode === 'patch' || hand.mode === 'transplant') return;
    if (hand.startStroke(...middle, 1, straight)) hand.endStroke();
    return;
  }
  if (!marking.tool) return;
  bench.useKeys(true);
  if (marking.tool === 'brush') marking.onShape({ op: 'add', kind: 'brush', points: [middle], size });
  else bench.setDraft([...draft, middle]);
}

/** Moves what floats by a pixel of the screen, with Shift by ten; else the picture. */
function moveBy(bench: Bench, dx: number, dy: number, far: boolean): void {
  const { hand, navigation } = bench;
  const { floating } = hand;
  if (!floating) {
    navigation.pan(dx, dy, far);
    return bench.useKeys(true);
  }
  const by = (far ? 10 : 1) / Math.min(1, navigation.handle.current?.scale() ?? 1);
  const [x, y] = floating.at;
  const [along, down] = navigation.onSheet(dx * by, dy * by);
  hand.changeFloating({ ...floating, at: [x + along, y + down], agreement: undefined });
}

/** Ends what is begun: puts down, finishes what is drawn, or accepts. */
function enter(bench: Bench): void {
  const { hand, draft, marking, repair, fault, treating } = bench;
  if (hand.floating) hand.putDown();
  else if (draft.length && marking.tool) marking.finish();
  else if (repair && fault) treating.settle('accepted');
}

const ARROWS = [
  [-1, 0],
  [1, 0],
  [0, -1],
  [0, 1],
] as const;

/** Every command of the bench that has a key. The list of keys, what keys do and the hints of buttons come from here. */
export const COMMANDS = {
  next: { text: 'next, previous open fault', keys: ['N', 'P'], run: (b, n) => b.treating.next(n ? -1 : 1) },
  enter: {
    text: 'accept and go on; finish a strand or corners; put down',
    keys: ['Enter'],
    run: enter,
    notInControls: true,
  },
  leave: { text: 'leave the fault as it is', keys: ['X'], run: (b) => b.treating.settle('left') },
  look: { text: 'look about, mark', keys: ['1', '2'], run: (b, n) => b.pickVerb(n ? 'mark' : 'look') },
  fill: { text: 'fill, or three more tries', keys: ['3'], run: (b, _, { again }) => void (again || b.treating.fill()) },
  lift: { text: 'lift: take off a stain, shadow or veil', keys: ['F2'], run: (b) => b.treating.lift() },
  copy: { text: 'copy, blend', keys: ['4', '5'], run: (b, n) => b.pickVerb(n ? 'blend' : 'copy') },
  trace: {
    text: 'trace a strand, complete the mesh',
    keys: ['6', 'G'],
    run: (b, n) => {
      if (!n) b.pickVerb('trace');
      else if (b.traced) void b.edits.mesh(b.faults.map((f) => f.id));
    },
  },
  patch: { text: 'patch, transplant', keys: ['7', '8'], run: (b, n) => b.pickVerb(n ? 'transplant' : 'patch') },
  shade: { text: 'shade, reveal', keys: ['9', '0'], run: (b, n) => b.pickVerb(n ? 'reveal' : 'shade') },
  donor: {
    text: 'held + click: set the donor; tapped: at the pointer or the cross',
    keys: ['D'],
    run: (b, _, { again }) => {
      if (again || (b.mode !== 'copy' && b.mode !== 'blend')) return;
      b.donorClicked.current = false;
      b.holdDonor(true);
    },
  },
  areas: {
    text: 'paint a donor area, a barred area for a fill',
    keys: ['U', 'I'],
    run: (b, n) => b.pickVerb(n ? 'barred' : 'donor'),
  },
  shapes: {
    text: SHAPES.map((s) => s.name.toLowerCase()).join(', '),
    keys: SHAPES.map((s) => s.key),
    run: (b, n) => b.pickShape(SHAPES[n].id),
  },
  size: { text: 'smaller, larger', keys: [',', '.'], run: (b, n) => b.resize(n === 1) },
  into: {
    text: 'new fault, add to it, take from it',
    keys: ['A', 'S', 'Z'],
    run: (b, n) => {
      if (n === 0 || b.faults.length === 1) b.setInto((['new', 'add', 'take'] as const)[n]);
    },
  },
  space: {
    text: 'mark or dab at the cross in the middle; with Shift a straight run',
    keys: ['Space'],
    run: (b, _, { shift }) => workAtCross(b, shift),
    notInControls: true,
  },
  arrows: {
    text: 'move the picture, or what floats; with Shift farther',
    keys: ['←', '→', '↑', '↓'],
    run: (b, n, { shift }) => moveBy(b, ARROWS[n][0], ARROWS[n][1], shift),
    notInControls: true,
  },
  zoom: { text: 'nearer, farther away', keys: ['+', '−'], run: (b, n) => zoomBy(b, n ? 1 / 1.5 : 1.5) },
  fit: {
    text: 'whole picture, 100 %',
    keys: ['Home', 'End'],
    run: (b, n) =>
      n ? b.navigation.zoomTo(1, b.faults.length === 1 ? b.fault : undefined) : b.navigation.handle.current?.fit(),
  },
  window: { text: 'the picture has the whole window, and back', keys: ['O'], run: (b) => b.toggleWhole() },
  turn: {
    text: 'turn the sheet to the left, to the right, straight; with Shift farther',
    keys: ['J', 'K', 'L'],
    run: ({ navigation }, n, { shift }) =>
      n === 2 ? navigation.handle.current?.turnTo(0) : navigation.turnBy((n ? 1 : -1) * (shift ? 15 : 3)),
  },
  find: { text: 'go to the chosen fault', keys: ['F'], run: (b) => b.fault && b.navigation.goTo(b.fault.id) },
  before: { text: 'held: as it came', keys: ['B'], run: (b) => b.hold(true) },
  compare: {
    text: 'divider, difference',
    keys: ['V', 'C'],
    run: (b, n) => b.compareBy(n ? 'difference' : 'divider'),
  },
  markers: { text: 'hide or show all markers', keys: ['M'], run: (b) => b.toggleMarkers() },
  bare: {
    text: 'look at the picture without any mark; the brush stays',
    keys: [';'],
    run: (b) => b.toggleBare(),
  },
  strength: {
    text: 'weaker, stronger by 10 %',
    keys: ['[', ']'],
    run: (b, n) => b.treating.strengthen(n ? 0.1 : -0.1),
  },
  hide: { text: 'hide or show the repair', keys: ['H'], run: (b) => b.treating.toggleVisible() },
  try: { text: 'next try', keys: ['Y'], run: (b) => b.treating.nextTry() },
  remove: { text: 'delete the repair, or remove the fault', keys: ['Delete'], run: (b) => b.treating.remove() },
  undo: {
    text: 'undo, redo: first what is being drawn, stroke by stroke',
    keys: ['Ctrl Z', 'Ctrl ⇧ Z'],
    run: (b, n) => b.step(n ? 'redo' : 'undo'),
  },
  drop: {
    text: 'drop what is being drawn; out of the whole window',
    keys: ['Esc'],
    run: (b) => (b.whole ? b.toggleWhole(false) : b.drop()),
  },
  help: { text: 'this list', keys: ['?'], run: (b) => b.showHelp(true) },
} satisfies Record<string, Command>;

export type CommandName = keyof typeof COMMANDS;

/** Keys as browsers name them where that differs from what is written on them. */
const NAMED: Record<string, string> = {
  Space: ' ',
  Esc: 'escape',
  '−': '-',
  '←': 'arrowleft',
  '→': 'arrowright',
  '↑': 'arrowup',
  '↓': 'arrowdown',
};

/** What a browser names a key that is written on like this, with Ctrl and Shift as words before it. */
const codeOf = (key: string): string =>
  key.startsWith('Ctrl')
    ? `ctrl ${key.includes('⇧') ? 'shift ' : ''}${key.at(-1)!.toLowerCase()}`
    : (NAMED[key] ?? key.toLowerCase());

/** Commands by the key that runs them. */
export const BY_KEY: ReadonlyMap<string, { command: Command; n: number }> = new Map(
  Object.values<Command>(COMMANDS).flatMap((command) =>
    command.keys.map((key, n) => [codeOf(key), { command, n }] as const),
  ),
);

/** A button's words with the key that does the same. */
export const hint = (name: CommandName, n = 0): string => COMMANDS[name].keys[n];
