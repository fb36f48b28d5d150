import { Kernels, withKernels } from './memory.ts';

test('blocks begin at multiples of sixteen and do not overlap', () => {
  const kernels = new Kernels();
  const sizes = [1, 16, 17, 1000, 3];
  const blocks = sizes.map((bytes) => kernels.reserve(bytes));
  blocks.forEach((at, n) => {
    expect(at % 16).toBe(0);
    if (n) expect(at).toBeGreaterThanOrEqual(blocks[n - 1] + sizes[n - 1]);
  });
});

test('what is put there is read back, also after the memory has grown', () => {
  const kernels = new Kernels();
  const [bytes, floats] = [Uint8Array.from([1, 2, 255]), Float32Array.from([0.5, -7, 1e9])];
  const [a, b] = [kernels.put(bytes), kernels.put(floats)];
  const before = kernels.run.memory.buffer.byteLength;
  const large = kernels.reserve(before + 5);
  expect(kernels.run.memory.buffer.byteLength).toBeGreaterThanOrEqual(large + before + 5);
  expect([...kernels.u8(a, 3)]).toEqual([1, 2, 255]);
  expect([...kernels.f32(b, 3)]).toEqual([0.5, -7, 1e9]);
  kernels.u8(large, 5).fill(9);
  expect([...kernels.u8(a, 3)]).toEqual([1, 2, 255]);
});

test('a part of an array is put as that part alone', () => {
  const kernels = new Kernels();
  const whole = Int32Array.from([1, 2, 3, 4]);
  expect([...kernels.i32(kernels.put(whole.subarray(1, 3)), 2)]).toEqual([2, 3]);
});

test('what was reserved since a mark is handed out again once it is let go of', () => {
  const kernels = new Kernels();
  kernels.reserve(40);
  const mark = kernels.mark();
  const first = kernels.reserve(100);
  kernels.release(mark);
  expect(kernels.reserve(100)).toBe(first);
});

test('kernels that a thread keeps are left as they were found, however deep calls are nested, also when one fails', () => {
  const start = withKernels((k) => k.mark());
  withKernels((outer) => {
    const own = outer.put(Uint8Array.from([5, 6]));
    expect(() =>
      withKernels((inner) => {
        inner.put(new Uint8Array(500).fill(1));
        throw new Error('in the middle');
      }),
    ).toThrow('in the middle');
    expect([...outer.u8(own, 2)]).toEqual([5, 6]);
  });
  expect(withKernels((k) => k.mark())).toBe(start);
});
