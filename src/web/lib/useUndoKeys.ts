import { useEffect } from 'react';
import { useLatest } from './latest.ts';

/** What has an undo of its own, or stands before everything else. */
const FIELDS = 'input:not([type=range], [type=checkbox], [type=radio]), textarea, [role=dialog]';

/** Undo and redo by their keys on a page that has no other commands, but not while somebody types. */
export function useUndoKeys(step: (direction: 'undo' | 'redo') => unknown): void {
  const keys = useLatest((e: KeyboardEvent) => {
    if (!(e.ctrlKey || e.metaKey) || e.altKey || e.key.toLowerCase() !== 'z') return;
    if ((e.target as HTMLElement).closest(FIELDS)) return;
    e.preventDefault();
    void step(e.shiftKey ? 'redo' : 'undo');
  });
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => keys.current(e);
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [keys]);
}
