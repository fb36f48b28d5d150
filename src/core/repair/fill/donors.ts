import { colourChannels, createRaster, type Raster } from '../../raster/raster.ts';
import type { FillSettings } from './settings.ts';

/** Where pixels may come from: one image, in which posed copies of the region stand below one another. */
export interface DonorPlanes {
  raster: Raster;
  /** 1 where a pixel may be taken */
  allowed: Uint8Array;
}

/** A pose of the donor: turned by `angle` degrees, scaled, mirrored left to right. */
interface Pose {
  angle: number;
  scale: number;
  mirror: boolean;
}

function poses({ turn, scale, mirror }: Pick<FillSettings, 'turn' | 'scale' | 'mirror'>): Pose[] {
  const angles = turn ? [0, -20, 20, 90, 180, 270] : [0];
  const scales = scale ? [1, 0.8, 1.25] : [1];
  const out: Pose[] = [];
  for (const m of mirror ? [false, true] : [false]) {
    for (const angle of angles) {
      // Turned and scaled at once is left out: it multiplies the work and is hardly ever the best match.
      for (const s of angle === 0 ? scales : [1]) out.push({ angle, scale: s, mirror: m });
    }
  }
  return out;
}

/**
 * The region as it is and, where the settings allow, turned, scaled and mirrored, so that one search over axis-parallel
 * patches covers all poses. Poses are resampled bilinearly, quarter turns and mirrors exactly.
 */
export function donorPlanes(
  picture: Raster,
  allowed: Uint8Array,
  settings: Pick<FillSettings, 'turn' | 'scale' | 'mirror'>,
): DonorPlanes {
  const list = poses(settings);
  if (list.length === 1) return { raster: picture, allowed: allowed.slice() };
  const posed = list.map((pose) => posePlane(picture, allowed, pose));
  const width = Math.max(...posed.map((p) => p.raster.width));
  const height = posed.reduce((sum, p) => sum + p.raster.height, 0);
  const raster = createRaster(width, height, picture.channels, picture.depth);
  const mask = new Uint8Array(width * height);
  let top = 0;
  for (const plane of posed) {
    const row = plane.raster.width * picture.channels;
    for (let y = 0; y < plane.raster.height; y++) {
      raster.data.set(plane.raster.data.subarray(y * row, (y + 1) * row), (top + y) * width * picture.channels);
      mask.set(plane.allowed.subarray(y * plane.raster.width, (y + 1) * plane.raster.width), (top + y) * width);
    }
    top += plane.raster.height;
  }
  return { raster, allowed: mask };
}

function posePlane(picture: Raster, allowed: Uint8Array, pose: Pose): DonorPlanes {
  const { channels, depth } = picture;
  const rad = (pose.angle * Math.PI) / 180;
  const cos = Math.round(Math.cos(rad) * 1e9) / 1e9;
  const sin = Math.round(Math.sin(rad) * 1e9) / 1e9;
  const s = pose.scale;
  const width = Math.max(1, Math.round(s * (Math.abs(picture.width * cos) + Math.abs(picture.height * sin))));
  const height = Math.max(1, Math.round(s * (Math.abs(picture.width * sin) + Math.abs(picture.height * cos))));
  const raster = createRaster(width, height, channels, depth);
  const mask = new Uint8Array(width * height);
  const colours = colourChannels(channels);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const cx = (x + 0.5 - width / 2) / s;
      const cy = (y + 0.5 - height / 2) / s;
      let u = cos * cx + sin * cy;
      const v = -sin * cx + cos * cy + picture.height / 2 - 0.5;
      if (pose.mirror) u = -u;
      u += picture.width / 2 - 0.5;
      const x0 = Math.floor(u + 1e-6);
      const y0 = Math.floor(v + 1e-6);
      const fx = Math.max(0, u - x0);
      const fy = Math.max(0, v - y0);
      const x1 = fx > 1e-5 ? x0 + 1 : x0;
      const y1 = fy > 1e-5 ? y0 + 1 : y0;
      if (x0 < 0 || y0 < 0 || x1 >= picture.width || y1 >= picture.height) continue;
      const i00 = y0 * picture.width + x0;
      const i10 = y0 * picture.width + x1;
      const i01 = y1 * picture.width + x0;
      const i11 = y1 * picture.width + x1;
      if (!allowed[i00] || !allowed[i10] || !allowed[i01] || !allowed[i11]) continue;
      mask[y * width + x] = 1;
      for (let c = 0; c < colours; c++) {
        const d = picture.data;
        const upper = d[i00 * channels + c] * (1 - fx) + d[i10 * channels + c] * fx;
        const lower = d[i01 * channels + c] * (1 - fx) + d[i11 * channels + c] * fx;
        raster.data[(y * width + x) * channels + c] = Math.round(upper * (1 - fy) + lower * fy);
      }
    }
  }
  return { raster, allowed: mask };
}
