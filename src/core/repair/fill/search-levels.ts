import { membrane } from './membrane.ts';

/** One resolution of the picture and of its donors, in the form that the search reads. */
export interface SearchLevel {
  width: number;
  height: number;
  /** four bytes a pixel: red, green, blue, texture; completed in place at covered pixels */
  target: Uint8Array;
  /** 1 where pixels are to be found */
  cover: Uint8Array;
  donors: { width: number; height: number; pixels: Uint8Array; allowed: Uint8Array };
}

/** Marks the centres whose (2r+1)² patch lies inside the image on allowed pixels only. */
export function allowedCentres(allowed: Uint8Array, width: number, height: number, r: number): Uint8Array {
  const rows = new Uint8Array(width * height);
  const out = new Uint8Array(width * height);
  for (let y = 0; y < height; y++) {
    let run = 0;
    for (let x = 0; x < width; x++) {
      run = allowed[y * width + x] ? run + 1 : 0;
      if (run >= 2 * r + 1) rows[y * width + x - r] = 1;
    }
  }
  for (let x = 0; x < width; x++) {
    let run = 0;
    for (let y = 0; y < height; y++) {
      run = rows[y * width + x] ? run + 1 : 0;
      if (run >= 2 * r + 1) out[(y - r) * width + x] = 1;
    }
  }
  return out;
}

/** Halves a byte image; covered pixels count only where nothing else is there. */
export function halve(level: SearchLevel): SearchLevel {
  const width = (level.width + 1) >> 1;
  const height = (level.height + 1) >> 1;
  const target = new Uint8Array(width * height * 4);
  const cover = new Uint8Array(width * height);
  shrink(
    level.target,
    level.width,
    level.height,
    (i) => level.cover[i] === 0,
    target,
    (c, known, all) => {
      cover[c] = known < all ? 1 : 0;
    },
  );
  const d = level.donors;
  const dw = (d.width + 1) >> 1;
  const dh = (d.height + 1) >> 1;
  const pixels = new Uint8Array(dw * dh * 4);
  const allowed = new Uint8Array(dw * dh);
  shrink(
    d.pixels,
    d.width,
    d.height,
    (i) => d.allowed[i] !== 0,
    pixels,
    (c, known, all) => {
      allowed[c] = known === all ? 1 : 0;
    },
  );
  return { width, height, target, cover, donors: { width: dw, height: dh, pixels, allowed } };
}

function shrink(
  from: Uint8Array,
  width: number,
  height: number,
  known: (i: number) => boolean,
  to: Uint8Array,
  note: (cell: number, known: number, all: number) => void,
): void {
  const w = (width + 1) >> 1;
  const h = (height + 1) >> 1;
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const sums = [0, 0, 0, 0];
      const rest = [0, 0, 0, 0];
      let n = 0;
      let all = 0;
      for (let v = 2 * y; v < Math.min(height, 2 * y + 2); v++) {
        for (let u = 2 * x; u < Math.min(width, 2 * x + 2); u++) {
          const i = v * width + u;
          const into = known(i) ? sums : rest;
          if (into === sums) n++;
          all++;
          for (let c = 0; c < 4; c++) into[c] += from[i * 4 + c];
        }
      }
      const cell = y * w + x;
      for (let c = 0; c < 4; c++) to[cell * 4 + c] = Math.round(n ? sums[c] / n : rest[c] / all);
      note(cell, n, all);
    }
  }
}

/** Completes the coarsest level smoothly, so that the search has something to go by. */
export function firstGuess(level: SearchLevel): void {
  const n = level.width * level.height;
  const image = Float32Array.from(level.target);
  membrane(image, level.width, level.height, level.cover, 4, 0.5);
  for (let i = 0; i < n; i++) {
    if (!level.cover[i]) continue;
    for (let c = 0; c < 4; c++) level.target[i * 4 + c] = Math.max(0, Math.min(255, Math.round(image[i * 4 + c])));
  }
}
