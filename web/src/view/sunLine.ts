/** The land's own shadow: a height for each post, asked of the server when sun or land changed. */
import * as calls from "../api/calls";
import type { Field } from "./field";

interface Wish {
  field: Field;
  land: string;
  sun: number[];
}

export class SunLine {
  private wanted: Wish | null = null;
  private asking = false;
  private key = "";

  /** `give` takes the line of the newest wish; a failed answer leaves what was there. */
  constructor(private readonly give: (line: Float32Array, field: Field) => void) {}

  /** An answer is on its way. */
  get pending(): boolean {
    return this.asking;
  }

  /** `land` is the key of the heights that the field was made from. */
  set(field: Field, land: string, sun: number[]) {
    const told = sun.map((v) => v.toFixed(4));
    const key = `${land} ${told}`;
    if (key === this.key) return;
    this.key = key;
    this.wanted = { field, land, sun };
    if (!this.asking) void this.ask();
  }

  private async ask() {
    this.asking = true;
    while (this.wanted) {
      const { field, land, sun } = this.wanted;
      this.wanted = null;
      const { nx, ny, spacing } = field;
      try {
        const line = await calls.sunLine({ key: land, nx, ny, spacing, sun });
        if (!this.wanted) this.give(new Float32Array(line), field);
      } catch {
        this.key = ""; // asked again with the next build
      }
    }
    this.asking = false;
  }
}
