import { useRef } from "react";
import { dropRaster, RASTERS } from "../../actions/bringIn";
import { set } from "../../state/store";
import { DrawButtons } from "./DrawButtons";
import { newMask } from "./MaskPanel";

/** The ways to a new mark: drawn, painted, from a picture. */
export function MarkButtons() {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <DrawButtons />
      <button className="btn" data-new-mask onClick={newMask}>
        Paint a mask
      </button>
      <button className="btn" onClick={() => input.current?.click()}>
        Mask picture…
      </button>
      <button className="btn" data-zone-map onClick={() => set({ dialog: "zones" })}>
        Zone map…
      </button>
      <input
        ref={input}
        type="file"
        accept={RASTERS}
        className="hidden"
        onChange={(e) => {
          const f = e.target.files?.[0];
          if (f) void dropRaster(f);
          e.target.value = "";
        }}
      />
    </>
  );
}
