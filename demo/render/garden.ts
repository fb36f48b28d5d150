import sharp from 'sharp';
import { drawOver, expose, save } from './image.ts';
import { clamp, fbm, hash, mix, noise, step } from './noise.ts';

const WIDTH = 3200;
const HEIGHT = 2134;
const LAWN = 1290;

const r = (n: number, s: number) => hash(n, s, 400);
const rgb = (c: readonly number[]) => `rgb(${c.map((v) => Math.round(clamp(v) * 255)).join(' ')})`;

/** Sky, far trees as soft masses, lawn with its light and shade: what lies behind everything. */
function ground(): Buffer {
  const out = Buffer.alloc(WIDTH * HEIGHT * 3);
  for (let y = 0, i = 0; y < HEIGHT; y++) {
    for (let x = 0; x < WIDTH; x++, i += 3) {
      let c: number[];
      const crown = 300 + 190 * (fbm(x * 0.0016, 2, 4, 410) - 0.5) + 90 * (fbm(x * 0.008, 7, 3, 411) - 0.5);
      if (y < crown) {
        const t = y / 420;
        c = [mix(0.72, 0.86, t), mix(0.8, 0.88, t), mix(0.88, 0.87, t)];
      } else if (y < LAWN) {
        const depth = step(crown, LAWN, y);
        const v = 0.5 + 0.9 * (fbm(x * 0.006, y * 0.007, 5, 412) - 0.5) - 0.25 * depth;
        c = [0.24 * v, 0.33 * v + 0.02, 0.14 * v];
      } else {
        const near = (y - LAWN) / (HEIGHT - LAWN);
        const z = 1 / (0.12 + near);
        const tone = 0.75 + 0.5 * (fbm((x * z) / 900, z * 2.1, 5, 413) - 0.5);
        const shade = mix(0.5, 1, step(0.36, 0.56, fbm(x * 0.0011 + 0.4 * near, near * 2.2, 3, 414)));
        c = [0.37 * tone * shade, 0.45 * tone * shade, 0.19 * tone * shade];
      }
      for (let k = 0; k < 3; k++) out[i + k] = 255 * clamp(c[k]);
    }
  }
  return out;
}

/** Leaves strewn over an area, the later the lighter, as light comes from above. */
function leaves(
  count: number,
  seed: number,
  area: (n: number) => [number, number],
  size: number,
  hue: number[],
): string {
  return Array.from({ length: count }, (_, n) => {
    const [x, y] = area(n);
    const s = size * (0.6 + 0.8 * r(n, seed + 3));
    const light = 0.35 + (0.75 * n) / count + 0.35 * (r(n, seed + 4) - 0.5);
    const c = hue.map((v, k) => v * light * (1 + 0.25 * (r(n, seed + 5 + k) - 0.5)));
    return `<ellipse cx="${x.toFixed(1)}" cy="${y.toFixed(1)}" rx="${s.toFixed(1)}" ry="${(s * 0.42).toFixed(1)}" fill="${rgb(c)}" transform="rotate(${(r(n, seed + 9) * 180).toFixed(0)} ${x.toFixed(1)} ${y.toFixed(1)})"/>`;
  }).join('');
}

function hedge(): string {
  const top = (x: number) => 760 + 50 * (fbm(x * 0.004, 1, 4, 420) - 0.5) + 26 * Math.sin(x / 210);
  return leaves(
    9000,
    20,
    (n) => {
      const x = r(n, 21) * WIDTH;
      return [x, mix(LAWN + 30, top(x), Math.pow(n / 9000, 0.8) * r(n, 22) ** 0.35)];
    },
    17,
    [0.3, 0.43, 0.17],
  );
}

function blades(): string {
  return Array.from({ length: 15000 }, (_, n) => {
    const near = r(n, 31) ** 0.7;
    const y = mix(LAWN + 20, HEIGHT + 30, near);
    const x = r(n, 30) * WIDTH;
    const h = mix(10, 62, near) * (0.6 + 0.7 * r(n, 32));
    const lean = (r(n, 33) - 0.5) * h;
    const light =
      (0.55 + 0.7 * r(n, 34)) * mix(0.55, 1.05, step(0.36, 0.56, fbm(x * 0.0011 + 0.4 * near, near * 2.2, 3, 414)));
    return `<path d="M ${x.toFixed(0)} ${y.toFixed(0)} q ${(lean * 0.2).toFixed(0)} ${(-h * 0.6).toFixed(0)} ${lean.toFixed(0)} ${(-h).toFixed(0)}" stroke="${rgb([0.4 * light, 0.5 * light, 0.2 * light])}" stroke-width="${mix(1.4, 4.6, near).toFixed(1)}" fill="none"/>`;
  }).join('');
}

const HUES = [
  [0.72, 0.16, 0.2],
  [0.86, 0.62, 0.16],
  [0.82, 0.8, 0.76],
  [0.55, 0.3, 0.62],
];

/** A border of flowers left and right of a path. */
function border(): string {
  let out = '';
  for (let n = 0; n < 620; n++) {
    const left = n % 2 === 0;
    const depth = n / 620;
    const x = (left ? r(n, 41) * 1200 : WIDTH - r(n, 41) * 1250) + 30;
    const foot = mix(LAWN + 70, 1600, depth);
    const h = mix(170, 330, depth) * (0.65 + 0.6 * r(n, 42));
    const [tx, ty] = [x + (r(n, 43) - 0.5) * 60, foot - h];
    const light = 0.5 + 0.6 * depth;
    out += `<path d="M ${x} ${foot} Q ${x} ${foot - h * 0.6} ${tx} ${ty}" stroke="${rgb([0.22 * light, 0.34 * light, 0.13 * light])}" stroke-width="${mix(3, 7, depth)}" fill="none"/>`;
    for (let k = 0; k < 5; k++) {
      const t = 0.15 + 0.7 * r(n * 7 + k, 44);
      const [lx, ly] = [mix(x, tx, t), mix(foot, ty, t)];
      const s = mix(20, 40, depth) * (0.7 + 0.6 * r(n * 7 + k, 45));
      const side = r(n * 7 + k, 46) > 0.5 ? 1 : -1;
      const l = light * (0.6 + 0.6 * r(n * 7 + k, 47));
      out += `<path d="M ${lx} ${ly} q ${side * s * 0.6} ${-s * 0.7} ${side * s * 1.5} ${-s * 0.3} q ${-side * s * 0.5} ${s * 0.6} ${-side * s * 1.5} ${s * 0.3}" fill="${rgb([0.3 * l, 0.46 * l, 0.19 * l])}"/>`;
    }
    const hue = HUES[Math.floor(r(n, 48) * 4)];
    const s = mix(17, 36, depth) * (0.7 + 0.6 * r(n, 49));
    const petals = 7;
    for (let k = 0; k < petals; k++) {
      const a = (k / petals) * 360 + r(n, 50) * 50;
      const l = 0.72 + 0.4 * r(n * 9 + k, 51);
      out += `<ellipse cx="${tx}" cy="${ty - s * 0.55}" rx="${s * 0.33}" ry="${s * 0.6}" fill="${rgb(hue.map((v) => v * l))}" transform="rotate(${a} ${tx} ${ty})"/>`;
    }
    out += `<circle cx="${tx}" cy="${ty}" r="${s * 0.27}" fill="${rgb([0.42, 0.3, 0.1])}"/>`;
  }
  return out;
}

/** The keeper's garden seat: planks with light from the left, and its shadow. */
function seat(): string {
  const plank = (x: number, y: number, w: number, h: number, l: number, n: number) => {
    let out = `<rect x="${x}" y="${y}" width="${w}" height="${h}" rx="3" fill="${rgb([0.58 * l, 0.49 * l, 0.37 * l])}"/>`;
    for (let k = 0; k < 9; k++) {
      const yy = y + h * (0.08 + 0.84 * r(n * 11 + k, 60));
      out += `<path d="M ${x + 4} ${yy} q ${w * 0.3} ${(r(n * 11 + k, 61) - 0.5) * 9} ${w * 0.6} 0 t ${w * 0.4 - 10} 0" stroke="${rgb([0.36 * l, 0.29 * l, 0.2 * l])}" stroke-width="${1 + 1.6 * r(n * 11 + k, 62)}" fill="none" opacity=".7"/>`;
    }
    return `${out}<rect x="${x}" y="${y}" width="${w}" height="4" fill="${rgb([0.78 * l, 0.7 * l, 0.57 * l])}"/><rect x="${x}" y="${y + h - 5}" width="${w}" height="5" fill="${rgb([0.2 * l, 0.16 * l, 0.1 * l])}"/>`;
  };
  const [x, y] = [1330, 1010];
  let out = `<ellipse cx="${x + 330}" cy="${y + 492}" rx="430" ry="42" fill="#10140a" opacity=".5"/>`;
  for (const dx of [24, 580])
    out += `<rect x="${x + dx}" y="${y + 20}" width="44" height="470" fill="#4e412f"/><rect x="${x + dx}" y="${y + 20}" width="12" height="470" fill="#7b6a50"/>`;
  for (let k = 0; k < 4; k++) out += plank(x - 10, y + k * 62, 670, 50, 1 - 0.05 * k, k);
  out += plank(x - 40, y + 290, 730, 46, 1.16, 8) + plank(x - 40, y + 340, 730, 26, 0.62, 9);
  return out;
}

/** One family of wires of the fence: seen at an angle, each with bends of its own, brighter above than below. */
function wires(lean: number, seed: number): string {
  let svg = '';
  for (let n = -26; n < 46; n++) {
    const x0 = WIDTH * 0.32 + 150 * n * (1 - 0.0035 * n);
    const bend = 3 + 6 * hash(n, seed, 430);
    const wave = 180 + 150 * hash(n, seed + 1, 430);
    const phase = 6 * hash(n, seed + 2, 430);
    const at = (y: number) =>
      x0 + lean * (y - HEIGHT / 2) * (1 - 0.002 * n) + bend * Math.sin(y / wave + phase) + 1.5 * Math.sin(y / 41 + n);
    let d = '';
    for (let y = -30; y <= HEIGHT + 30; y += 12) d += `${d ? 'L' : 'M'} ${at(y).toFixed(1)} ${y}`;
    if (at(-30) < -2600 && at(HEIGHT) < -100) continue;
    const grey = 0.55 + 0.08 * hash(n, seed + 3, 430);
    svg += `<path d="${d}" fill="none" stroke="${rgb([grey * 0.95, grey, grey * 0.98])}" stroke-width="7"/>`;
    svg += `<path d="${d}" fill="none" stroke="${rgb([grey + 0.13, grey + 0.14, grey + 0.13])}" stroke-width="3" transform="translate(-1 -1)"/>`;
  }
  return svg;
}

/** Sprays that grow in front of the fence; they are meant to stay. */
function inFront(): string {
  let out = '';
  for (let n = 0; n < 9; n++) {
    const x = 180 + n * 34 + 60 * r(n, 70);
    const h = 520 + 420 * r(n, 71);
    const lean = (r(n, 72) - 0.35) * 260;
    out += `<path d="M ${x} ${HEIGHT + 20} q ${lean * 0.2} ${-h * 0.5} ${lean} ${-h}" stroke="#33481f" stroke-width="9" fill="none"/>`;
    for (let k = 0; k < 16; k++) {
      const t = 0.15 + (0.85 * k) / 16;
      const [lx, ly] = [x + lean * t * t, HEIGHT + 20 - h * t];
      const side = k % 2 ? 1 : -1;
      const s = 46 * (1.15 - 0.5 * t);
      const l = 0.7 + 0.5 * r(n * 20 + k, 73);
      out += `<path d="M ${lx} ${ly} q ${side * s * 0.6} ${-s * 0.8} ${side * s * 1.7} ${-s * 0.5} q ${-side * s * 0.5} ${s * 0.8} ${-side * s * 1.7} ${s * 0.5}" fill="${rgb([0.33 * l, 0.48 * l, 0.2 * l])}"/>`;
    }
  }
  return out;
}

/** Renders the garden, with and without the fence that it was taken through. */
export async function renderGarden(folder: string): Promise<void> {
  const far = leaves(
    2600,
    10,
    (n) => [r(n, 11) * WIDTH, 330 + 520 * (n / 2600) * r(n, 12) + 40],
    46,
    [0.34, 0.44, 0.24],
  );
  const layer = (base: Buffer, svg: string, blur: number) => drawOver(base, WIDTH, HEIGHT, svg, blur);
  const soft = await sharp(ground(), { raw: { width: WIDTH, height: HEIGHT, channels: 3 } })
    .blur(9)
    .raw()
    .toBuffer();
  let scene = await layer(soft, far, 14);
  scene = await layer(scene, hedge(), 5);
  scene = await layer(scene, blades(), 1.6);
  scene = await layer(scene, seat(), 1.2);
  scene = await layer(scene, border(), 1.4);
  // Uneven brightness, as leaves overhead throw it.
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i += 3) {
      const l = 0.92 + 0.16 * (noise(x * 0.0022, y * 0.0022, 440) - 0.5);
      for (let k = 0; k < 3; k++) scene[i + k] = Math.min(255, scene[i + k] * l);
    }
  const clean = await layer(scene, inFront(), 1);
  const fence = await layer(scene, wires(0.92, 7) + wires(-0.86, 17), 0.9);
  const behind = await layer(fence, inFront(), 1);
  const camera = { lens: 0.8, noise: 4.6, seed: 19 };
  await save(await expose(clean, WIDTH, HEIGHT, camera), WIDTH, HEIGHT, `${folder}/garden-truth.jpg`, 92, 300);
  await save(await expose(behind, WIDTH, HEIGHT, camera), WIDTH, HEIGHT, `${folder}/garden.jpg`, 92, 300);
}
