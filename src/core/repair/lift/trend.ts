/** What two slopes have in common: the lesser of them, nothing where they go apart. Source: van Leer's minmod limiter, 1979. */
export const shared = (a: number, b: number): number => (a * b <= 0 ? 0 : Math.abs(a) < Math.abs(b) ? a : b);
