import { useRef } from "react";
import { layDifference } from "../actions/compare";
import { shown } from "../document/numbers";
import { set, usePage } from "../state/store";

/** Two pictures of the same view with a wipe between them, and what differs. */
export function Wipe() {
  const c = usePage((s) => s.compared);
  const ref = useRef<HTMLDivElement>(null);
  if (!c) return null;
  const to = (at: number) =>
    set((s) => ({ compared: s.compared && { ...s.compared, at: Math.min(1, Math.max(0, at)) } }));
  const a = c.answer;
  const count = (n: number) => n.toLocaleString("en");
  return (
    <div
      ref={ref}
      className="absolute inset-0 z-20 touch-none select-none"
      data-wipe
      onPointerDown={(e) => {
        if ((e.target as HTMLElement).closest("[data-told]")) return;
        (e.currentTarget as Element).setPointerCapture(e.pointerId);
        const r = ref.current!.getBoundingClientRect();
        to((e.clientX - r.left) / r.width);
      }}
      onPointerMove={(e) => {
        if (e.buttons && (e.currentTarget as Element).hasPointerCapture(e.pointerId)) {
          const r = ref.current!.getBoundingClientRect();
          to((e.clientX - r.left) / r.width);
        }
      }}
    >
      <img
        src={c.b.picture}
        alt={c.b.label}
        draggable={false}
        className="absolute inset-0 h-full w-full"
      />
      <img
        src={c.a.picture}
        alt={c.a.label}
        draggable={false}
        className="absolute inset-0 h-full w-full"
        style={{ clipPath: `inset(0 ${100 - c.at * 100}% 0 0)` }}
      />
      <div
        role="slider"
        tabIndex={0}
        aria-label="Wipe"
        aria-valuenow={Math.round(c.at * 100)}
        className="absolute top-0 bottom-0 w-[14px] cursor-ew-resize"
        style={{ left: `calc(${c.at * 100}% - 7px)` }}
        onKeyDown={(e) => {
          const d = e.key === "ArrowRight" ? 0.02 : e.key === "ArrowLeft" ? -0.02 : 0;
          if (d) {
            e.preventDefault();
            e.stopPropagation();
            to(c.at + d);
          }
        }}
      >
        <i className="mx-auto block h-full w-[2px] bg-[#f4efe4] shadow-[0_0_0_1px_#23302b]" />
      </div>
      <span className="absolute top-3 left-3 max-w-[40%] truncate bg-paper/90 px-2">
        {c.a.label}
      </span>
      <span className="absolute top-3 right-3 max-w-[40%] truncate bg-paper/90 px-2">
        {c.b.label}
      </span>
      <div
        data-told
        className={
          "absolute bottom-3 left-1/2 w-[460px] -translate-x-1/2 border border-ink " +
          "bg-paper/95 px-3 py-2 text-[12.5px]"
        }
      >
        <div className="max-h-[92px] overflow-auto">
          {a.differences.length
            ? a.differences.map((d) => (
                <div key={d.part}>
                  <b>{d.part}</b>{" "}
                  {[
                    d.added.length && `added ${d.added.join(", ")}`,
                    d.removed.length && `without ${d.removed.join(", ")}`,
                    d.changed.length && `changed ${d.changed.join(", ")}`,
                  ]
                    .filter(Boolean)
                    .join("; ")}
                </div>
              ))
            : "Nothing differs."}
        </div>
        <div className="mt-1 text-soft">
          {a.plants[0] !== a.plants[1]
            ? `${count(a.plants[0])} plants, then ${count(a.plants[1])} · `
            : ""}
          {a.heights
            ? `raised up to ${shown(Math.max(0, a.heights.highest))} m (` +
              `${shown(a.raised_m3)} m³), lowered up to ` +
              `${shown(Math.max(0, -a.heights.lowest))} m (${shown(a.lowered_m3)} m³)`
            : "the plots differ in size"}
        </div>
        <div className="mt-1 flex justify-end gap-1">
          {a.heights && (
            <button className="btn" data-difference onClick={() => void layDifference()}>
              Lay the difference over the land
            </button>
          )}
          <button className="btn" onClick={() => set({ compared: null })}>
            Leave
          </button>
        </div>
      </div>
    </div>
  );
}
