import type { Page } from '@playwright/test';

/** Intervals in ms between painted frames of a page while `act` goes on. */
export async function framesOf(page: Page, act: () => Promise<void>): Promise<number[]> {
  await page.evaluate(() => {
    const w = window as never as { frames: number[]; counting: boolean };
    w.frames = [];
    w.counting = true;
    let last = performance.now();
    const tick = (now: number) => {
      w.frames.push(now - last);
      last = now;
      if (w.counting) requestAnimationFrame(tick);
    };
    requestAnimationFrame(tick);
  });
  await act();
  return page.evaluate(() => {
    const w = window as never as { frames: number[]; counting: boolean };
    w.counting = false;
    return w.frames.slice(2);
  });
}
