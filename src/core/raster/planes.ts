import { withKernels, type Kernels } from '../kernels/memory.ts';
import { colourChannels, fullScale, type Raster } from './raster.ts';

/**
 * Colour of a raster as floats on the 8-bit scale (0…255), four a pixel (red, green, blue, 0; grey fills the first
 * lane only), with a border of `pad` pixels that repeats the edge. 16-bit samples keep their fractions.
 */
export function toFloat4(source: Raster, pad = 0): Float32Array {
  const { width, height, channels } = source;
  const colours = colourChannels(channels);
  const scale = 255 / fullScale(source.depth);
  const stride = width + 2 * pad;
  const out = new Float32Array(stride * (height + 2 * pad) * 4);
  if (pad === 0 && colours === 3) {
    const { data } = source;
    for (let from = 0, to = 0; to < out.length; from += channels, to += 4) {
      out[to] = data[from] * scale;
      out[to + 1] = data[from + 1] * scale;
      out[to + 2] = data[from + 2] * scale;
    }
    return out;
  }
  for (let y = -pad; y < height + pad; y++) {
    const sy = y < 0 ? 0 : y >= height ? height - 1 : y;
    for (let x = -pad; x < width + pad; x++) {
      const sx = x < 0 ? 0 : x >= width ? width - 1 : x;
      const from = (sy * width + sx) * channels;
      const to = ((y + pad) * stride + x + pad) * 4;
      for (let c = 0; c < colours; c++) out[to + c] = source.data[from + c] * scale;
    }
  }
  return out;
}

/**
 * Luma of a float image of four lanes (Rec. 709 weights; for grey the first lane), one float a pixel.
 */
export function lumaOf(image: Float32Array, colours: 1 | 3): Float32Array {
  const out = new Float32Array(image.length / 4);
  for (let i = 0, p = 0; i < out.length; i++, p += 4) {
    out[i] = colours === 1 ? image[p] : 0.2126 * image[p] + 0.7152 * image[p + 1] + 0.0722 * image[p + 2];
  }
  return out;
}

/** Gaussian kernel of standard deviation `sigma` pixels, cut at 3 σ, summing to 1. */
export function gaussianKernel(sigma: number, radius = Math.ceil(3 * sigma)): Float32Array {
  const out = new Float32Array(2 * radius + 1);
  let sum = 0;
  for (let i = -radius; i <= radius; i++) sum += out[i + radius] = Math.exp((-i * i) / (2 * sigma * sigma));
  for (let i = 0; i < out.length; i++) out[i] /= sum;
  return out;
}

/** Runs a kernel over a plane: `run` gets the addresses of the plane, of a row with room and of
 * two more planes, and says where the result is. */
function through(
  source: Float32Array,
  row: number,
  run: (kernels: Kernels, at: { source: number; row: number; mid: number; out: number }) => number,
): Float32Array {
  return withKernels((kernels) => {
    const at = {
      source: kernels.put(source),
      row: kernels.reserve(4 * row),
      mid: kernels.reserve(source.byteLength),
      out: kernels.reserve(source.byteLength),
    };
    return kernels.f32(run(kernels, at), source.length).slice();
  });
}

/** Separable Gaussian blur of a one-channel float image; edges are repeated. */
export function blur(source: Float32Array, width: number, height: number, sigma: number): Float32Array {
  const kernel = gaussianKernel(sigma);
  const r = (kernel.length - 1) / 2;
  return through(source, width + 2 * r, (kernels, at) => {
    const kernelAt = kernels.put(kernel.slice(r));
    kernels.run.blurPlane(at.source, width, height, kernelAt, r, at.row, at.mid, at.out);
    return at.out;
  });
}

/**
 * Mean over a square of (2 radius + 1)² pixels, taken twice, so that it falls off like a tent; pixels outside count as 0.
 * Costs the same for every radius.
 */
export function spread(source: Float32Array, width: number, height: number, radius: number): Float32Array {
  return through(source, width, ({ run }, at) => {
    run.boxMeanPlane(at.source, width, height, radius, at.row, at.mid, at.out);
    run.boxMeanPlane(at.out, width, height, radius, at.row, at.mid, at.source);
    return at.source;
  });
}
