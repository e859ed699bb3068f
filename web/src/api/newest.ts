/**
 * Work of which only the newest wish counts: while one is under way, later wishes take each other's
 * place, and the last of them is done next.
 */
export class Newest<T> {
  private wanted: { wish: T } | null = null;
  private busy = false;

  /** `work` does a wish and tells its own troubles; it is not called again before it has ended. */
  constructor(private readonly work: (wish: T) => Promise<void>) {}

  /** Something is under way. */
  get working(): boolean {
    return this.busy;
  }

  /** A newer wish waits for the one that is under way. */
  get overtaken(): boolean {
    return this.wanted !== null;
  }

  /** What is wished now takes the place of what was wished and not begun. */
  wish(wish: T): void {
    this.wanted = { wish };
    if (!this.busy) void this.run();
  }

  /** A wish that was given up comes back, unless there is a newer one. */
  again(wish: T): void {
    if (!this.wanted) this.wish(wish);
  }

  /** What is wished and not begun is not wished any more. */
  forget(): void {
    this.wanted = null;
  }

  private async run(): Promise<void> {
    this.busy = true;
    try {
      while (this.wanted) {
        const { wish } = this.wanted;
        this.wanted = null;
        await this.work(wish);
      }
    } finally {
      this.busy = false;
    }
  }
}
