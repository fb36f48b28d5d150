const REMEMBERED = 500;

/** Does named requests once: one that comes again, since its answer was lost on the way, gets the first one's answer. */
export class Once {
  private readonly answers = new Map<string, Promise<unknown>>();

  run<T>(name: string | undefined, work: () => Promise<T>): Promise<T> {
    if (!name) return work();
    const known = this.answers.get(name) as Promise<T> | undefined;
    if (known) return known;
    const answer = work();
    this.answers.set(name, answer);
    answer.catch(() => this.answers.delete(name));
    if (this.answers.size > REMEMBERED) this.answers.delete(this.answers.keys().next().value!);
    return answer;
  }
}
