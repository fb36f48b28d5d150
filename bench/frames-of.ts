// Frames as somebody takes them by hand from one place, cut from a photograph: turned, tilted, bent, darker to the corners and at other
// exposures, all of it known.
import { multiplied, rayOf, reachOf, turnOf, type Camera } from '../src/core/join/camera.ts';
import { fromLight, toLight } from '../src/core/join/light.ts';
import type { Raster } from '../src/core/raster/raster.ts';

export interface Taken {
  raster: Raster;
  camera: Camera;
  /** stops by which it is lighter */
  exposure: number;
}

export interface TakenFrames {
  frames: Taken[];
  /** focal length of the photograph, px: it lies in a plane before the camera */
  focal: number;
  /** stops by which corners are darker */
  fall: number;
}

/**
 * Cuts frames from a photograph, from left to right.
 * @param width of a frame, px
 */
export function framesOf(photo: Raster, random: () => number, count = 3, width = 1000): TakenFrames {
  const between = (a: number, b: number) => a + (b - a) * random();
  const height = Math.round(width * 0.75);
  // So that frames of about half the photograph's height fit with room to turn.
  const focal = photo.width * between(0.8, 1.4);
  const share = 0.62 * Math.min(photo.height / 0.75, photo.width / (1 + 0.62 * (count - 1)) / 0.75);
  const scale = width / share;
  const fall = between(0, 1.2);
  const bend = between(-0.06, 0.04);
  const step = 0.62 * share;
  const frames = Array.from({ length: count }, (_, n): Taken => {
    const aim = (n - (count - 1) / 2) * step;
    const yaw = Math.atan2(aim, focal);
    const degrees = Math.PI / 180;
    const turn = multiplied(
      turnOf([0, 0, between(-4, 4) * degrees]),
      multiplied(turnOf([between(-1, 1) * 0.04 * (photo.height / focal), 0, 0]), turnOf([0, -yaw, 0])),
    );
    const camera: Camera = { width, height, turn, focal: focal * scale, bend };
    const exposure = n ? between(-0.5, 0.5) : 0;
    const data = new Uint8Array(width * height * 3);
    const reach = reachOf(camera);
    for (let y = 0, i = 0; y < height; y++)
      for (let x = 0; x < width; x++, i += 3) {
        const [X, Y, Z] = rayOf(camera, x, y);
        const [px, py] = [(focal * X) / Z + photo.width / 2 - 0.5, (focal * Y) / Z + photo.height / 2 - 0.5];
        const r = Math.hypot(x + 0.5 - width / 2, y + 0.5 - height / 2) / reach;
        const gain = 2 ** (exposure - fall * r * r);
        const [u, v] = [
          Math.min(photo.width - 2, Math.max(0, Math.floor(px))),
          Math.min(photo.height - 2, Math.max(0, Math.floor(py))),
        ];
        const [fx, fy] = [Math.min(1, Math.max(0, px - u)), Math.min(1, Math.max(0, py - v))];
        for (let c = 0; c < 3; c++) {
          const p = (v * photo.width + u) * photo.channels + c;
          const q = p + photo.width * photo.channels;
          const at = (k: number) => toLight(photo.data[k] / 255);
          const upper = at(p) + (at(p + photo.channels) - at(p)) * fx;
          const lower = at(q) + (at(q + photo.channels) - at(q)) * fx;
          data[i + c] = Math.round(255 * Math.min(1, fromLight(gain * (upper + (lower - upper) * fy))));
        }
      }
    return { raster: { width, height, channels: 3, depth: 8, data }, camera, exposure };
  });
  return { frames, focal, fall };
}
