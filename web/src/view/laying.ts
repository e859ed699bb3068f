import type { GroundBaker } from "./groundBaker";
import type { GroundPages, PageWish } from "./groundPages";
import type { Pieces } from "./pieces";

const LAY_MS = 80; // what one piece of laying should take
const MOST_AT_ONCE = 64;

/** Lays the ground's pages, some at a time: how many follows from what the last ones took. */
export class Laying {
  private atOnce = 2;

  constructor(
    private readonly pages: GroundPages,
    private readonly baker: GroundBaker,
    private readonly pieces: Pieces,
  ) {}

  /**
   * Lays pages that lack `least` texels a pixel or more, for at most `most` ms: "done" when none is
   * left, "more" when the time is over, false when it was dropped.
   */
  async lay(
    eye: Parameters<GroundPages["lacking"]>[0],
    stale: () => boolean,
    least: number,
    most: number,
  ): Promise<"done" | "more" | false> {
    const wishes = this.pages.lacking(eye).filter((w) => w.lack >= least);
    const began = performance.now();
    for (let i = 0; i < wishes.length;) {
      if (stale()) return false;
      if (performance.now() - began > most) return "more";
      const some = wishes.slice(i, i + this.atOnce);
      i += some.length;
      const ms = await this.pieces.one(() => this.layAll(some));
      const right = (some.length * LAY_MS) / Math.max(ms, 2);
      this.atOnce = Math.max(1, Math.min(MOST_AT_ONCE, Math.round((this.atOnce + right) / 2)));
    }
    return stale() ? false : "done";
  }

  private layAll(wishes: PageWish[]) {
    for (const wish of wishes) if (!this.baker.lay(wish)) return;
  }
}
