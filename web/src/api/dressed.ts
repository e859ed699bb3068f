/** A kind in its dress, as the core writes it (`cabinet/dressed.py`): "birch~autumn~ffddaa~120". */
export interface Dressed {
  kind: string;
  look: string;
  /** As in "#ffddaa". */
  tint: string;
  /** Lightness in %. */
  bright: number;
}

/** What a dressed kind's name says; what it leaves out is plain. */
export function dressed(name: string): Dressed {
  const [kind, look, tint, bright] = name.split("~");
  return {
    kind,
    look: look || "summer",
    tint: `#${tint || "ffffff"}`,
    bright: +(bright || 100),
  };
}
