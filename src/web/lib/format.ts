/** Whole numbers with thin spaces between thousands. */
export const count = (n: number): string =>
  Math.round(n)
    .toString()
    .replace(/\B(?=(\d{3})+$)/g, '\u202f');

/** A number of things, in the plural where it is not one. */
export const plural = (n: number, thing: string): string => `${count(n)} ${thing}${n === 1 ? '' : 's'}`;

export const megapixels = (width: number, height: number): string => `${((width * height) / 1e6).toFixed(1)} MP`;

export function bytes(n: number): string {
  if (n < 1e6) return `${Math.max(1, Math.round(n / 1e3))} kB`;
  return `${(n / 1e6).toFixed(n < 1e8 ? 1 : 0)} MB`;
}

/** A length, or the sides of something, in millimetres with as many places as matter. */
export const millimetres = (...sides: number[]): string =>
  `${sides.map((mm) => (mm < 10 ? mm.toFixed(1) : Math.round(mm))).join(' × ')} mm`;

export const percent = (share: number): string =>
  `${(share * 100).toFixed(share === 0 ? 0 : share < 0.01 ? 2 : share < 0.1 ? 1 : 0)} %`;

export const when = (at: number): string =>
  new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'long', year: 'numeric' }).format(at);

/** Minutes as people say them. */
export function duration(minutes: number): string {
  if (minutes < 1) return `${Math.max(1, Math.round(minutes * 60))} s`;
  if (minutes < 90) return `${Math.round(minutes)} min`;
  return `${Math.floor(minutes / 60)} h ${Math.round(minutes % 60)} min`;
}

/** A sentence's beginning. */
export const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);
