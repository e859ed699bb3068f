/**
 * Draws on demand: quick frames while something moves, the full picture by pieces when it rests.
 * What changes meanwhile drops what is not drawn yet. A tab that nobody sees draws nothing.
 */

const REST_MS = 160;
const LEAST_STEP_S = 0.016;
const MOST_STEP_S = 0.25;

/** What the loop draws with. */
export interface Frames {
  /** A quick frame; ends when it is drawn. */
  moving: () => Promise<void>;
  /** The full picture; ends when it is drawn (true), or when `stale` said so (false). */
  full: (stale: () => boolean) => Promise<boolean>;
  /** Time goes on by some seconds, while wind and waves are played. */
  advance: (seconds: number) => void;
  /** Something has come to be seen, or drawing has come to rest. */
  done: () => void;
}

const later = (ms: number) => new Promise<void>((go) => setTimeout(go, ms));

function seen(): Promise<void> {
  if (!document.hidden) return later(0);
  return new Promise((go) => {
    document.addEventListener("visibilitychange", () => go(), { once: true });
  });
}

export class FrameLoop {
  playing = false;
  count = 0;
  /** What the last quick frame took until it was drawn. */
  lastMs = 0;
  private wanted = false;
  /** A change has not been shown by a quick frame yet. */
  private unseen = false;
  private running = false;
  private version = 0;
  private settleAt = 0;
  private held = 0;

  constructor(private readonly frames: Frames) {}

  /** Something that shows has changed. `rest` goes to the full picture at once. */
  changed(rest = false) {
    this.version++;
    this.wanted = true;
    if (!rest) {
      this.unseen = true; // even if what is under way takes longer than the rest
      this.settleAt = performance.now() + REST_MS;
    }
    if (!this.running && !this.held) void this.run();
  }

  /** Nothing is left to draw. */
  get settled(): boolean {
    return !this.wanted && !this.running && !this.playing && !this.held;
  }

  /** Frames wait while several changes are made; always paired with `release`. */
  hold() {
    this.held++;
    this.version++;
  }

  release() {
    this.held--;
    this.changed();
  }

  /** Ends when nothing is being drawn. */
  async idle(): Promise<void> {
    while (this.running) await later(5);
  }

  private async run() {
    this.running = true;
    while ((this.wanted || this.playing) && !this.held) {
      await seen();
      if (this.held) break;
      if (this.playing || this.unseen || performance.now() < this.settleAt) await this.quick();
      else await this.full();
    }
    this.running = false;
    this.frames.done();
  }

  private async quick() {
    const start = performance.now();
    const version = this.version;
    this.unseen = false;
    if (this.playing)
      this.frames.advance(Math.min(MOST_STEP_S, Math.max(LEAST_STEP_S, this.lastMs / 1000)));
    await this.frames.moving();
    this.lastMs = performance.now() - start;
    this.frames.done();
    while (this.version === version && !this.playing && performance.now() < this.settleAt)
      await later(8);
  }

  private async full() {
    this.wanted = false;
    const version = this.version;
    const whole = await this.frames.full(() => this.version !== version);
    if (whole) this.count++;
    else this.wanted = true;
    this.frames.done();
  }
}
