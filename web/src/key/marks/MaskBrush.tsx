import { brush, setBrush } from "../../actions/brush";
import { Range } from "../../controls/Range";
import type { Brush } from "../../state/slices";
import { usePage } from "../../state/store";

/** Size, softness and firmness of the brush for masks. */
export function MaskBrush() {
  const schema = usePage((s) => s.catalogue!.scene);
  const b = usePage((s) => s.brush) ?? brush();
  const props = schema.$defs.Stroke.properties;
  return (
    <>
      {["size_m", "soft", "firm"].map((n) => {
        const p = props[n];
        const [low, high] = (p.sow?.slider ?? []) as number[];
        return (
          <Range
            key={n}
            label={`Brush: ${p.title?.toLowerCase()}`}
            value={b[n] as number}
            unit={p.sow?.unit ?? ""}
            min={p.minimum ?? 0}
            max={p.maximum ?? 1e6}
            low={low ?? p.minimum ?? 0}
            high={high ?? p.maximum ?? 1}
            log={p.sow?.scale === "log"}
            help={p.description}
            onDrag={(v) => setBrush({ [n]: v } as Partial<Brush>)}
            onKeep={(v) => setBrush({ [n]: v } as Partial<Brush>)}
          />
        );
      })}
    </>
  );
}
