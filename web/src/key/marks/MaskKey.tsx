import { shown } from "../../document/numbers";
import { usePage } from "../../state/store";

/** What the hatching means, on the face while a mask is chosen. */
export function MaskKey() {
  const m = usePage((s) => s.mask);
  const name = usePage((s) => s.doc?.marks.find((x) => x.id === s.mask?.id)?.name);
  const plot = usePage((s) => s.doc?.plot);
  if (!m || !plot) return null;
  return (
    <div
      className="flex items-center gap-2 border border-ink bg-paper/95 px-2 py-[2px] text-[12px]"
      data-mask-key
    >
      <svg width="26" height="14">
        <rect width="26" height="14" fill="#d6d2b8" stroke="#23302b" />
        {[0, 6, 12, 18, 24].map((x) => (
          <path key={x} d={`M${x - 6} 14L${x + 8} 0`} stroke="#23302b" strokeWidth="1.3" />
        ))}
      </svg>
      <span>
        <b>{name}</b> lies where it is hatched: {shown(m.share * 100)} %,{" "}
        {shown((m.share * plot.width_m * plot.depth_m) / 1e4)} ha
      </span>
    </div>
  );
}
