/**
 * The scene's light as the core computes it: asked anew where it changed, coarse while it is
 * dragged and fine at rest. The newest wish wins.
 */
import * as calls from "../api/calls";
import type { Light, LightLine } from "../api/shapes";
import type { LightPictures } from "./light";

const REST_MS = 180;

/** What a light depends on. */
export interface LightWish {
  light: Light;
  ground: number[];
  lowest: number;
  side_m: number;
  /** Whose page hears how far the sky is. */
  scene?: number;
}

/** For what a light was made, and whether it is as fine as it becomes. */
export interface Given {
  wish: LightWish;
  whole: boolean;
}

/** Only what the film is given differs: the light itself is there. */
function sameAir(a: LightWish, b: LightWish): boolean {
  const bare = (w: LightWish) =>
    JSON.stringify({ ...w, light: { ...w.light, exposure: 0, white_k: 0 } });
  return bare(a) === bare(b);
}

export class Daylight {
  private wish: LightWish | null = null;
  private key = "";
  private asking = false;
  private resting = 0;
  private quick = false;
  private drawn: LightWish | null = null; // in full

  /**
   * `give` takes the newest light, `trouble` hears why one could not be had; unless `fine`, the
   * coarse one is kept at rest too.
   */
  constructor(
    private readonly give: (line: LightLine, pictures: LightPictures, given: Given) => void,
    private readonly trouble: (e: unknown) => void,
    private readonly fine = true,
  ) {}

  /** A finer light is on its way. */
  get pending(): boolean {
    return this.asking || this.resting > 0;
  }

  set(wish: LightWish) {
    const key = JSON.stringify(wish);
    if (key === this.key) return;
    this.key = key;
    this.wish = wish;
    this.quick = !!this.drawn && sameAir(wish, this.drawn);
    if (!this.asking) void this.draft();
  }

  /** Another scene: its light is not that of the last. */
  forget() {
    this.drawn = null;
    this.key = "";
  }

  private async draft() {
    this.asking = true;
    clearTimeout(this.resting);
    this.resting = 0;
    while (this.wish) {
      const wish = this.wish;
      this.wish = null;
      await this.ask(wish, this.quick ? "rest" : "draft");
      if (!this.wish && !this.quick && this.fine) this.later(wish);
    }
    this.asking = false;
  }

  private later(wish: LightWish) {
    this.resting = window.setTimeout(() => {
      this.resting = 0;
      this.wish ??= wish;
      void this.rest();
    }, REST_MS);
  }

  private async rest() {
    if (this.asking) return;
    this.asking = true;
    const wish = this.wish;
    this.wish = null;
    if (wish) await this.ask(wish, "rest");
    this.asking = false;
    if (this.wish) void this.draft();
  }

  private async ask(wish: LightWish, stage: "draft" | "rest") {
    try {
      const line = await calls.makeLight({ ...wish, stage });
      const keys = [line.sky, line.tone];
      const [sky, tone] = await Promise.all(keys.map((k) => calls.productBytes(k)));
      // what is newer is drawn coarsely before this one would be
      if (stage === "rest" && this.wish && !this.quick) return;
      this.drawn = stage === "rest" ? wish : null;
      this.give(line, { sky, tone }, { wish, whole: stage === "rest" });
    } catch (e) {
      this.key = ""; // asked again with the next change
      this.trouble(e);
      // a panorama that cannot be had leaves the air's own sky
      const light = { ...wish.light, panorama: "" };
      if (wish.light.panorama) await this.ask({ ...wish, light }, stage);
    }
  }
}
