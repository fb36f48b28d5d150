import type { Sheet } from './usePreview.ts';

/** Tells a bench that listens how long after each move of the pointer its frame was painted, ms, and what is shown. */
export function measure(moved: number[], sheet: Sheet): void {
  const list = (window as unknown as { tersumStroke?: number[] & { sheet?: Sheet } }).tersumStroke;
  if (!list || !moved.length) return;
  list.sheet = sheet;
  const { port1, port2 } = new MessageChannel();
  // A message posted from an animation frame arrives once that frame has been handed on.
  port1.onmessage = () => {
    const now = performance.now();
    list.push(...moved.map((at) => now - at));
    port1.close();
  };
  port2.postMessage(null);
}
