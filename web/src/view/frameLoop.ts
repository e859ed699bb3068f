/** Draws on demand: a quick frame while something moves, a full one when it rests. */

const REST_MS = 160;
const LEAST_STEP_S = 0.016;
const MOST_STEP_S = 0.25;

/** What the loop draws with. */
export interface Frames {
  /** A quick frame, or the full one at rest. */
  draw: (moving: boolean) => void;
  /** Time goes on by some seconds, while wind and waves are played. */
  advance: (seconds: number) => void;
  /** A frame is done. */
  done: () => void;
}

export class FrameLoop {
  playing = false;
  count = 0;
  lastMs = 0;
  private wanted = false;
  private running = false;
  private settleAt = 0;
  private timer = 0;
  private held = 0;

  constructor(private readonly frames: Frames) {}

  /** Something that shows has changed. `rest` goes to the full frame at once. */
  changed(rest = false) {
    this.wanted = true;
    this.settleAt = performance.now() + (rest ? 0 : REST_MS);
    if (this.running) return;
    this.running = true;
    requestAnimationFrame(this.step);
  }

  get settled(): boolean {
    return !this.wanted && !this.running && !this.playing && !this.held;
  }

  /** Frames wait while several changes are made; always paired with `release`. */
  hold() {
    this.held++;
  }

  release() {
    this.held--;
    this.changed();
  }

  private step = () => {
    if (this.held) {
      this.running = false;
      return;
    }
    const start = performance.now();
    if (this.wanted && start < this.settleAt) this.quick(start);
    else if (this.playing) this.play(start);
    else this.full();
  };

  private quick(start: number) {
    this.wanted = false;
    this.frames.draw(true);
    this.lastMs = performance.now() - start;
    clearTimeout(this.timer);
    const wait = Math.max(0, this.settleAt - performance.now());
    this.timer = window.setTimeout(() => requestAnimationFrame(this.step), wait);
    this.frames.done();
  }

  private play(start: number) {
    this.wanted = false;
    this.frames.advance(Math.min(MOST_STEP_S, Math.max(LEAST_STEP_S, this.lastMs / 1000)));
    this.frames.draw(true);
    this.lastMs = performance.now() - start;
    this.frames.done();
    requestAnimationFrame(this.step);
  }

  private full() {
    this.wanted = false;
    this.frames.draw(false);
    this.running = false;
    this.count++;
    this.frames.done();
    if (this.wanted) this.changed();
  }
}
