import { brush, setBrush } from "../actions/brush";
import { MaskKey } from "../key/marks/MaskKey";
import { ON_MASKS, TOOLS } from "../key/marks/brushTools";
import { set, usePage } from "../state/store";

/** Shown on the face only while a landform by hand or a mask is chosen. */
export function BrushTools() {
  const hand = usePage((s) => s.doc?.land.some((l) => l.id === s.chosen && l.kind === "hand"));
  const mask = usePage((s) => s.doc?.marks.some((m) => m.id === s.chosen && m.kind === "mask"));
  const tool = usePage((s) => s.tool);
  const now = usePage((s) => s.brush?.tool ?? "raise");
  const b = usePage((s) => s.brush);
  if (!hand && !mask) return null;
  const list = mask ? ON_MASKS : TOOLS;
  const used = list.some((t) => t[0] === now) ? now : list[0][0];
  return (
    <div className="flex flex-col items-start gap-1" data-brushes>
      <div className="flex flex-wrap">
        {list.map(([id, label, d]) => (
          <button
            key={id}
            className={
              "btn -ml-px h-[26px] px-[6px]! " + `${tool === "brush" && used === id ? "on" : ""}`
            }
            style={
              tool === "brush" && used === id
                ? { background: "#b9812a", borderColor: "#7c520f" }
                : undefined
            }
            aria-label={label}
            title={label}
            aria-pressed={tool === "brush" && used === id}
            data-brush={id}
            onClick={() => {
              const off = tool === "brush" && used === id;
              setBrush({ tool: id });
              set({ tool: off ? null : "brush" });
            }}
          >
            <svg
              width="18"
              height="16"
              viewBox="0 0 18 16"
              fill="none"
              stroke="currentColor"
              strokeWidth="1.5"
              strokeLinecap="round"
              strokeLinejoin="round"
            >
              <path d={d} />
            </svg>
          </button>
        ))}
      </div>
      {tool === "brush" && (
        <span className="bg-paper/90 px-2 text-[11.5px]">
          {list.find((t) => t[0] === used)?.[1]} · {(b ?? brush()).size_m} m · soft{" "}
          {(b ?? brush()).soft} % · comma and full stop change the size, Escape leaves
        </span>
      )}
      {mask && <MaskKey />}
    </div>
  );
}
