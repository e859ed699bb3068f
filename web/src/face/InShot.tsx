import { frameShare, stepOut } from "../actions/shots";
import type { Shot } from "../api/shapes";
import { set, usePage } from "../state/store";
import { INSET } from "./neatLine";

/** The frame of the shot that the eye has stepped into, its thirds, and the way out. */
export function InShot({
  width,
  height,
  hole,
}: {
  width: number;
  height: number;
  /** Size of the inset that the canvas holds, which is not darkened. */
  hole: { width: number; height: number } | null;
}) {
  const stepped = usePage((s) => s.stepped);
  const lines = usePage((s) => s.frameLines);
  const clean = usePage((s) => s.clean);
  const shot = usePage((s) => s.doc?.shots.find((x) => x.id === s.stepped?.shot)) as
    Shot | undefined;
  if (!stepped || !shot) return null;
  const wide = width * frameShare(shot, width, height);
  const high = (wide * shot.height_px) / shot.width_px;
  const left = (width - wide) / 2;
  const top = (height - high) / 2;
  const inset = hole
    ? `M${INSET.left} ${height - INSET.bottom}h${hole.width}v${-hole.height}h${-hole.width}Z`
    : "";
  const frame = `M${left} ${top}V${top + high}H${left + wide}V${top}Z`;
  return (
    <>
      <svg
        className="pointer-events-none absolute inset-0"
        width={width}
        height={height}
        data-in-shot={shot.id}
      >
        <clipPath id="beside-inset">
          <path d={`M0 0H${width}V${height}H0Z${inset}`} clipRule="evenodd" />
        </clipPath>
        <path
          d={`M0 0H${width}V${height}H0Z${frame}`}
          fill="#23302b"
          opacity={clean ? 1 : 0.55}
          fillRule="evenodd"
          clipPath="url(#beside-inset)"
        />
        {lines && !clean && (
          <g stroke="#f4efe4" fill="none" opacity={0.55}>
            <rect x={left + 0.5} y={top + 0.5} width={wide - 1} height={high - 1} />
            {[1 / 3, 2 / 3].map((k) => (
              <path
                key={k}
                strokeDasharray="2 4"
                d={`M${left + wide * k} ${top}v${high}M${left} ${top + high * k}h${wide}`}
              />
            ))}
            <rect
              strokeDasharray="1 5"
              x={left + wide * 0.05}
              y={top + high * 0.05}
              width={wide * 0.9}
              height={high * 0.9}
            />
          </g>
        )}
      </svg>
      {!clean && (
        <div
          className={
            "absolute bottom-3 left-1/2 flex -translate-x-1/2 gap-3 border border-ink " +
            "bg-paper px-3 py-1"
          }
        >
          <span>
            In “{shot.name}”{stepped.free ? "" : ", held still"}
          </span>
          <button
            className="underline"
            onClick={() => set({ stepped: { ...stepped, free: !stepped.free } })}
          >
            {stepped.free ? "hold still" : "let the eye move"}
          </button>
          <button className="underline" data-step-out onClick={stepOut}>
            step out
          </button>
        </div>
      )}
    </>
  );
}
