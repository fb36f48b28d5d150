import type { Page } from '@playwright/test';

/**
 * What is wrong with how a page stands, in words: texts that are cut off, controls that something else lies over or that have no
 * name for those who do not see them. What is
 * scrolled out of sight does not count, nor does what somebody types.
 */
export function flaws(page: Page): Promise<string[]> {
  return page.evaluate(() => {
    const found: string[] = [];
    const nameOf = (e: Element) =>
      `${e.tagName.toLowerCase()} "${(e.getAttribute('aria-label') ?? e.textContent ?? '').trim().slice(0, 40)}"`;
    const root = document.querySelector('[role=dialog]') ?? document.body;
    /** What is to be seen of an element: its box, cut by all that scroll or clip around it. */
    const seenOf = (e: Element) => {
      const box = e.getBoundingClientRect();
      let [x0, y0, x1, y1] = [box.left, box.top, box.right, box.bottom];
      for (let p = e.parentElement; p; p = p.parentElement) {
        if (getComputedStyle(p).overflow === 'visible') continue;
        const r = p.getBoundingClientRect();
        [x0, y0, x1, y1] = [Math.max(x0, r.left), Math.max(y0, r.top), Math.min(x1, r.right), Math.min(y1, r.bottom)];
      }
      return { x0, y0, x1: Math.min(x1, innerWidth), y1: Math.min(y1, innerHeight), box };
    };
    const isSeen = (e: Element) => {
      const { x0, y0, x1, y1 } = seenOf(e);
      return x1 - x0 > 2 && y1 - y0 > 2 && getComputedStyle(e).visibility === 'visible';
    };
    for (const e of root.querySelectorAll<HTMLElement>('*')) {
      if (e.closest('.visually-hidden, svg, [aria-hidden=true], option') || !isSeen(e)) continue;
      const own = [...e.childNodes].some((n) => n.nodeType === Node.TEXT_NODE && n.textContent!.trim());
      const style = getComputedStyle(e);
      if (own && style.overflowX !== 'visible' && style.overflowX !== 'auto' && e.scrollWidth > e.clientWidth + 1)
        found.push(`cut off: ${nameOf(e)}`);
      if (own && style.overflowY === 'hidden' && e.scrollHeight > e.clientHeight + 2)
        found.push(`cut off below: ${nameOf(e)}`);
      // Text that runs out of the button it stands in.
      if (own && e.closest('button') && e.scrollWidth > e.clientWidth + 1 && e.clientWidth > 0)
        found.push(`too long for its button: ${nameOf(e)}`);
    }
    // The word that is chosen in a menu must fit beside its arrow.
    const pen = document.createElement('canvas').getContext('2d')!;
    for (const s of root.querySelectorAll('select')) {
      if (!isSeen(s)) continue;
      const style = getComputedStyle(s);
      pen.font = style.font;
      const text = s.selectedOptions[0]?.textContent ?? '';
      const room = s.clientWidth - parseFloat(style.paddingLeft) - parseFloat(style.paddingRight) - 16;
      if (pen.measureText(text).width > room + 1) found.push(`cut off in its menu: ${nameOf(s)} ${text}`);
    }
    for (const c of root.querySelectorAll('button, select, input, textarea, a[href]')) {
      if (!isSeen(c) || c.closest('.visually-hidden') || (c as HTMLElement).style.display === 'contents') continue;
      if (getComputedStyle(c).display === 'contents' || getComputedStyle(c).pointerEvents === 'none') continue;
      const { x0, y0, x1, y1, box } = seenOf(c);
      const [x, y] = [(box.left + box.right) / 2, (box.top + box.bottom) / 2];
      if (x < x0 || x > x1 || y < y0 || y > y1) continue;
      const top = document.elementFromPoint(x, y);
      if (top && !c.contains(top) && !top.contains(c) && c.closest('label') !== top.closest('label'))
        found.push(`covered: ${nameOf(c)} by ${nameOf(top)}`);
    }
    for (const c of root.querySelectorAll<HTMLInputElement>('button, select, input, textarea')) {
      const by = c.getAttribute('aria-labelledby')?.split(' ') ?? [];
      const labels = [...(c.labels ?? []), ...by.map((id) => document.getElementById(id))];
      const name = [c.getAttribute('aria-label'), c.title, c.textContent, ...labels.map((l) => l?.textContent)];
      if (c.type !== 'hidden' && c.type !== 'file' && !name.some((n) => n?.trim()))
        found.push(`without a name: ${nameOf(c)} ${c.type} in ${c.closest('section, header, main')?.className}`);
    }
    return [...new Set(found)];
  });
}
