import { Refused } from '../contract/refused.ts';
/** What the server takes in. Set by TERSUM_MAX_MEGAPIXELS and TERSUM_MAX_MEGABYTES. */
export interface Limits {
  megapixels: number;
  megabytes: number;
}

export function limitsFrom(env: Record<string, string | undefined>): Limits {
  const number = (name: string, fallback: number) => {
    const value = Number(env[name]);
    return Number.isFinite(value) && value > 0 ? value : fallback;
  };
  return { megapixels: number('TERSUM_MAX_MEGAPIXELS', 160), megabytes: number('TERSUM_MAX_MEGABYTES', 1500) };
}

/** @throws Refused when a picture has more pixels than are taken; names the figure */
export function refusePixels(width: number, height: number, limits: Limits): void {
  const megapixels = (width * height) / 1e6;
  if (megapixels <= limits.megapixels) return;
  throw new Refused(
    `The picture has ${width} × ${height} px (${megapixels.toFixed(1)} megapixels); at most ${limits.megapixels} are taken. Scale it down, or raise TERSUM_MAX_MEGAPIXELS.`,
    413,
  );
}
