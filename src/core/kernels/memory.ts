import { KERNELS_BASE64 } from './kernels.gen.ts';

/** The compiled inner loops; see `assembly/` for what each does. Addresses are bytes in `memory`. */
export interface KernelExports {
  memory: { buffer: ArrayBuffer; grow(pages: number): number };
  heapBase(): number;
  seed(value: number): void;
  measure(...addresses: number[]): void;
  searchPass(...addresses: number[]): void;
  searchAll(...addresses: number[]): void;
  voteMean(...addresses: number[]): void;
  voteBest(...addresses: number[]): void;
  accumulate(...addresses: number[]): number;
  flowBytes(nodes: number): number;
  flowOpen(address: number, nodes: number): void;
  flowCut(count: number): number;
  flowSide(node: number): number;
  layoutOpen(...addresses: number[]): void;
  layoutEnergy(): number;
  expand(move: number): number;
  toneSweeps(...numbers: number[]): void;
  cubicAt(...numbers: number[]): void;
  poissonOpen(): void;
  poissonRelax(...numbers: number[]): void;
  poissonResidual(...numbers: number[]): void;
  poissonRestrict(...numbers: number[]): void;
  poissonProlong(...numbers: number[]): void;
  poissonDot(...numbers: number[]): void;
  poissonApply(...numbers: number[]): void;
  poissonStep(...numbers: number[]): void;
  poissonTurn(...numbers: number[]): void;
  blurPlane(...numbers: number[]): void;
  boxMeanPlane(...numbers: number[]): void;
  joinCosts(...numbers: number[]): void;
  joinMeans(...numbers: number[]): void;
  joinBest(...numbers: number[]): void;
  fieldOpen(...numbers: number[]): void;
  ringCosts(...numbers: number[]): void;
  moveCosts(...numbers: number[]): void;
  relax(...addresses: number[]): void;
  alikeOpen(...numbers: number[]): void;
  alikeWith(...numbers: number[]): void;
  alikeScales(...numbers: number[]): void;
  alikeBeside(...numbers: number[]): number;
  alikeCorrelation(...numbers: number[]): number;
  alikeVaries(): number;
}

/** The little of WebAssembly's interface that is used here, so that the core needs neither DOM nor Node typings. */
interface WasmHost {
  Module: new (bytes: Uint8Array) => object;
  Instance: new (module: object, imports: object) => { exports: unknown };
}

let compiled: object | undefined;

function decodeBase64(text: string): Uint8Array {
  const alphabet = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';
  const values = new Uint8Array(128);
  for (let i = 0; i < 64; i++) values[alphabet.charCodeAt(i)] = i;
  const clean = text.replace(/=+$/, '');
  const out = new Uint8Array((clean.length * 3) >> 2);
  let bits = 0;
  let held = 0;
  let at = 0;
  for (let i = 0; i < clean.length; i++) {
    bits = ((bits << 6) | values[clean.charCodeAt(i)]) & 0xffffff;
    held += 6;
    if (held >= 8) {
      held -= 8;
      out[at++] = (bits >> held) & 0xff;
    }
  }
  return out;
}

/**
 * One instance of the kernels with a memory of its own, so that renders in different threads never meet.
 * `reserve` hands out 16-byte aligned blocks; views must be taken after the last `reserve`, since growing moves them.
 */
export class Kernels {
  readonly run: KernelExports;
  private next: number;

  constructor() {
    const host = (globalThis as unknown as { WebAssembly: WasmHost }).WebAssembly;
    compiled ??= new host.Module(decodeBase64(KERNELS_BASE64));
    this.run = new host.Instance(compiled, { env: { abort: () => undefined } }).exports as KernelExports;
    this.run.poissonOpen();
    this.next = (this.run.heapBase() + 15) & ~15;
  }

  /** Address of a fresh block of `bytes`. @throws RangeError when linear memory (4 GiB) is used up. */
  reserve(bytes: number): number {
    const address = this.next;
    this.next = (address + bytes + 15) & ~15;
    const missing = this.next - this.run.memory.buffer.byteLength;
    if (missing > 0) this.run.memory.grow(Math.ceil(missing / 65536));
    return address;
  }

  /** Address of a fresh block that holds a copy of `values`. Views must be taken anew afterwards. */
  put(values: Uint8Array | Uint16Array | Int32Array | Uint32Array | Float32Array): number {
    const address = this.reserve(values.byteLength);
    new Uint8Array(this.run.memory.buffer, address, values.byteLength).set(
      new Uint8Array(values.buffer, values.byteOffset, values.byteLength),
    );
    return address;
  }

  /** Forgets every block handed out since `mark` was taken with {@link mark}. */
  release(mark: number): void {
    this.next = mark;
  }

  mark(): number {
    return this.next;
  }

  u8(address: number, length: number): Uint8Array {
    return new Uint8Array(this.run.memory.buffer, address, length);
  }

  i32(address: number, length: number): Int32Array {
    return new Int32Array(this.run.memory.buffer, address, length);
  }

  f64(address: number, length: number): Float64Array {
    return new Float64Array(this.run.memory.buffer, address, length);
  }

  f32(address: number, length: number): Float32Array {
    return new Float32Array(this.run.memory.buffer, address, length);
  }
}

let shared: Kernels | undefined;
/** Calls of {@link withKernels} that are under way. */
let nested = 0;
/** Bytes from which on the memory is let go of after use, since it never shrinks. */
const LARGE = 512 * 2 ** 20;

/**
 * Runs something over kernels that this thread keeps; what it reserves is let go of afterwards, and calls may be nested. Nothing is
 * cleared: blocks hold what stood there before.
 */
export function withKernels<T>(run: (kernels: Kernels) => T): T {
  const kernels = (shared ??= new Kernels());
  const start = kernels.mark();
  nested++;
  try {
    return run(kernels);
  } finally {
    kernels.release(start);
    if (--nested === 0 && kernels.run.memory.buffer.byteLength > LARGE) shared = undefined;
  }
}
