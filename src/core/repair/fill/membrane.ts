import { solvePoissonChannels } from '../poisson.ts';

/** Completes the covered pixels of a four-lane float image by membrane interpolation, in place. */
export function membrane(
  image: Float32Array,
  width: number,
  height: number,
  cover: Uint8Array,
  colours: number,
  tolerance = 0.1,
): void {
  const planes: Float32Array[] = [];
  for (let c = 0; c < colours; c++) {
    const plane = new Float32Array(width * height);
    let sum = 0;
    let count = 0;
    for (let i = 0; i < plane.length; i++) {
      plane[i] = image[i * 4 + c];
      if (!cover[i]) {
        sum += plane[i];
        count++;
      }
    }
    const mean = count ? sum / count : 128;
    for (let i = 0; i < plane.length; i++) if (cover[i]) plane[i] = mean;
    planes.push(plane);
  }
  solvePoissonChannels(planes, cover, width, height, undefined, { tolerance });
  for (let c = 0; c < colours; c++) {
    for (let i = 0; i < cover.length; i++) if (cover[i]) image[i * 4 + c] = planes[c][i];
  }
}
