/** Ways to look at a whole picture. */
export const VIEWS_OF_WHOLE = {
  divider: { name: 'Divider', words: 'As it came left of the line, repaired right of it. Drag it, or use the arrows.' },
  beside: {
    name: 'Side by side',
    words: 'As it came and repaired, at the same place and size. Scroll to come closer.',
  },
  difference: { name: 'Difference', words: 'How much every place differs, amplified.' },
  changes: { name: 'Changes only', words: 'What the repairs put there, on grey.' },
  fly: {
    name: 'Fly over',
    words: 'Every place once at 100 %. Space pauses, M marks the middle, + and − set the pace.',
  },
} as const;
export type WholeView = keyof typeof VIEWS_OF_WHOLE;
