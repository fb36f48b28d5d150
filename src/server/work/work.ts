/** One kind of work for the thread pool: a file each in `kinds/`, and a line in `kinds.ts`. Big arrays travel as shared memory. */
export interface Work<Input, Output> {
  /** it decodes or encodes by native threads of its own: it ends at its next step and is never cut off */
  native?: true;
  /** @param progress 0…1; throws once the work is cancelled */
  run(input: Input, progress: (done: number) => void): Output | Promise<Output>;
}

/** Thrown where work was cancelled. */
export class Cancelled extends Error {
  constructor() {
    super('Cancelled.');
  }
}
