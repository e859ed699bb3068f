/** The land's own shadow: a height for each post, asked of the server when sun or land changed. */
import * as calls from "../api/calls";
import { Newest } from "../api/newest";
import type { Field } from "./field";

interface Wish {
  field: Field;
  land: string;
  sun: number[];
}

export class SunLine {
  private readonly newest = new Newest<Wish>((wish) => this.ask(wish));
  private key = "";

  /** `give` takes the line of the newest wish; a failed answer leaves what was there. */
  constructor(private readonly give: (line: Float32Array, field: Field) => void) {}

  /** An answer is on its way. */
  get pending(): boolean {
    return this.newest.working;
  }

  /** `land` is the key of the heights that the field was made from. */
  set(field: Field, land: string, sun: number[]) {
    const told = sun.map((v) => v.toFixed(4));
    const key = `${land} ${told}`;
    if (key === this.key) return;
    this.key = key;
    this.newest.wish({ field, land, sun });
  }

  private async ask({ field, land, sun }: Wish) {
    const { nx, ny, spacing } = field;
    try {
      const line = await calls.sunLine({ key: land, nx, ny, spacing, sun });
      if (!this.newest.overtaken) this.give(new Float32Array(line), field);
    } catch {
      this.key = ""; // asked again with the next build
    }
  }
}
