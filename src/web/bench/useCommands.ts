import { useLayoutEffect } from 'react';
import { BY_KEY } from './commands.ts';
import type { Bench, OpeningBench } from './useBench.ts';

const FIELDS = 'input:not([type=range], [type=checkbox], [type=radio]), textarea, select, [role=dialog]';
const CONTROLS = 'button, [role=slider], [role=separator], input, a, [role=radio], label';

/** Runs commands by their keys, wherever the focus is, but not while somebody types. */
export function useCommands(bench: OpeningBench): void {
  // Renewed as soon as anything is drawn anew, so that a key never acts on what stood before the key just pressed.
  useLayoutEffect(() => {
    if (!bench.state) return;
    const open = bench as Bench;
    const onKey = (e: KeyboardEvent) => {
      const target = e.target as HTMLElement;
      if (target.closest(FIELDS)) return;
      if (e.altKey) return;
      const key = e.key.toLowerCase();
      const withCtrl = e.ctrlKey || e.metaKey;
      const found = BY_KEY.get(withCtrl ? `ctrl ${e.shiftKey ? 'shift ' : ''}${key}` : key === '=' ? '+' : key);
      if (!found || (found.command.notInControls && target.closest(CONTROLS))) return;
      e.preventDefault();
      found.command.run(open, found.n, { shift: e.shiftKey, again: e.repeat });
    };
    const onUp = (e: KeyboardEvent) => {
      const key = e.key.toLowerCase();
      if (key === 'b') open.hold(false);
      if (key !== 'd' || !open.donorHeld) return;
      open.holdDonor(false);
      // Pressed without a click, the key sets the donor where the pointer or the cross stands.
      const place = open.pointerAt.current ?? open.navigation.middle();
      if (!open.donorClicked.current && place) open.hand.setDonor(place);
      if (!open.pointerAt.current) open.useKeys(true);
    };
    window.addEventListener('keydown', onKey);
    window.addEventListener('keyup', onUp);
    return () => {
      window.removeEventListener('keydown', onKey);
      window.removeEventListener('keyup', onUp);
    };
  });
}
