/** Where the last edit of an open picture came from: what a window has not seen it does not take back. */
export class LastEdit {
  private last: { window: string | undefined; mark: string } | null = null;

  /** @param mark names the state that the edit led to */
  note(window: string | undefined, mark: string): void {
    this.last = { window, mark };
  }

  /**
   * Whether a window has seen the last edit, or made it.
   * @param known mark of the state that it knows
   * @param epoch of the picture's present marks
   */
  isKnownTo(window: string | undefined, known: string, epoch: string): boolean {
    if (!this.last || (window !== undefined && this.last.window === window)) return true;
    const [ownEpoch, own] = known.split('.');
    const [lastEpoch, last] = this.last.mark.split('.');
    // Marks are only in order within one opening, and one canvas, of the picture.
    return ownEpoch === lastEpoch ? Number(own) >= Number(last) : ownEpoch === epoch;
  }
}
