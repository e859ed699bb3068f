import { useRef, useState } from "react";

type Region = [number, number, number, number];

const WIDE = 132;
const LEAST = 0.04;
const round = (v: number) => Math.round(v * 1000) / 1000;

/** A part of the frame, drawn on its outline: only that is taken. */
export function RegionPick({
  aspect,
  region,
  keep,
}: {
  aspect: number;
  region: Region | null;
  keep: (region: Region | null) => void;
}) {
  const high = Math.min(WIDE, Math.round(WIDE * aspect));
  const wide = Math.round(high / aspect);
  const start = useRef<[number, number] | null>(null);
  const [drawn, setDrawn] = useState<Region | null>(null);
  const at = (e: React.PointerEvent<SVGSVGElement>): [number, number] => {
    const box = e.currentTarget.getBoundingClientRect();
    const part = (v: number) => Math.min(1, Math.max(0, v));
    return [part((e.clientX - box.left) / box.width), part((e.clientY - box.top) / box.height)];
  };
  const between = (a: [number, number], b: [number, number]): Region => [
    round(Math.min(a[0], b[0])),
    round(Math.min(a[1], b[1])),
    round(Math.abs(a[0] - b[0])),
    round(Math.abs(a[1] - b[1])),
  ];
  const shown = drawn ?? region;
  return (
    <div className="flex items-end gap-2">
      <svg
        width={wide}
        height={high}
        className="cursor-crosshair touch-none border border-ink bg-[#d9d4c4]"
        role="img"
        aria-label="Draw the part of the frame that is taken"
        data-region={region ? region.join(" ") : ""}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          start.current = at(e);
        }}
        onPointerMove={(e) => start.current && setDrawn(between(start.current, at(e)))}
        onPointerUp={(e) => {
          const found = start.current && between(start.current, at(e));
          start.current = null;
          setDrawn(null);
          keep(found && found[2] > LEAST && found[3] > LEAST ? found : null);
        }}
      >
        {shown && (
          <rect
            x={shown[0] * wide}
            y={shown[1] * high}
            width={shown[2] * wide}
            height={shown[3] * high}
            fill="#4c6b3c55"
            stroke="#23302b"
          />
        )}
      </svg>
      <span className="text-soft">
        {region ? (
          <>
            {Math.round(100 * region[2] * region[3])} % of it{" "}
            <button className="underline" onClick={() => keep(null)}>
              whole
            </button>
          </>
        ) : (
          "the whole frame; draw a part to take that first"
        )}
      </span>
    </div>
  );
}
