import { get, set } from "../state/store";
import { INSET } from "./neatLine";

const STEP_PX = 24;

/** The corner by which the inset is drawn out. */
export function InsetGrip({
  size,
  most,
}: {
  size: { width: number; height: number };
  most: number;
}) {
  const keep = (wide: number) =>
    set({ insetWide: Math.round(Math.min(most, Math.max(140, wide))) });
  const drag = (e: React.PointerEvent) => {
    const start = e.clientX;
    const from = size.width;
    const grip = e.currentTarget;
    grip.setPointerCapture(e.pointerId);
    const move = (now: Event) => keep(from + (now as PointerEvent).clientX - start);
    grip.addEventListener("pointermove", move);
    grip.addEventListener("pointerup", () => grip.removeEventListener("pointermove", move), {
      once: true,
    });
  };
  return (
    <button
      className={
        "absolute h-[18px] w-[18px] cursor-nesw-resize touch-none border border-ink " +
        "bg-paper text-[10px] leading-none"
      }
      style={{ left: INSET.left + size.width - 9, bottom: INSET.bottom + size.height - 9 }}
      aria-label="Size of the inset"
      title="Drag to draw the inset out; arrow keys too"
      data-inset-grip
      onPointerDown={drag}
      onKeyDown={(e) => {
        const by = e.key === "ArrowRight" ? STEP_PX : e.key === "ArrowLeft" ? -STEP_PX : 0;
        if (by) keep(get().insetWide + by);
      }}
    >
      ↗
    </button>
  );
}
