import type { Quality } from "./quality";

const MOVING_MS = 120; // what a quick frame should take
const SMALLEST = 0.35; // of what its quality gives a quick frame

/** How large a quick frame is, and how many plants it holds: as much as is drawn in time. */
export class MovingPace {
  /** Of the face's width and height. */
  scale: number;
  /** Of the plants' budget. */
  share: number;

  constructor(private readonly quality: Quality) {
    this.scale = quality.soft ? quality.moving * 0.6 : quality.moving;
    this.share = quality.soft ? 0.12 : 0.4;
  }

  /** The next quick frame is as large as the last one's time allows. */
  took(ms: number) {
    const { moving } = this.quality;
    const change = Math.min(1.25, Math.max(0.6, Math.sqrt(MOVING_MS / Math.max(ms, 1))));
    const wanted = this.scale * change;
    this.scale = Math.min(moving, Math.max(moving * SMALLEST, wanted));
    if (wanted < moving * SMALLEST) this.share = Math.max(0.04, this.share * 0.7);
    else if (wanted > moving) this.share = Math.min(0.4, this.share * 1.15);
  }
}
