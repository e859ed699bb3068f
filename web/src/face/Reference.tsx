import {
  beginMarking,
  endMarking,
  enough,
  markNow,
  markPicture,
  matchShot,
  overGround,
} from "../actions/match";
import { frameShare } from "../actions/shots";
import type { Shot } from "../api/shapes";
import * as urls from "../api/urls";
import type { Marking } from "../state/slices";
import { set, usePage } from "../state/store";

const WORDS: Record<Marking["what"], string> = {
  horizon: "horizon",
  uprights: "two uprights",
  places: "known places",
};
const SAYS: Record<Marking["what"], string> = {
  horizon: "Two clicks along the picture's horizon.",
  uprights: "Two clicks along each of two edges that are plumb.",
  places: "A click on something in the picture, then on its place on the ground or the map.",
};
const INK = "#b3701d";

/** The reference of the shot that was stepped into: over the face, wiped or beside it. */
export function Reference({ width, height }: { width: number; height: number }) {
  const shot = usePage((s) => s.doc?.shots.find((x) => x.id === s.stepped?.shot)) as
    Shot | undefined;
  const { how, share } = usePage((s) => s.reference);
  const marking = usePage((s) => s.marking);
  const placing = usePage((s) => s.tool === "match");
  const clean = usePage((s) => s.clean);
  if (!shot?.reference) return null;
  const wide = width * frameShare(shot, width, height);
  const high = (wide * shot.height_px) / shot.width_px;
  const beside = how === "beside" && !marking;
  const box = beside
    ? { left: width - 14 - wide * 0.4, top: 52, width: wide * 0.4, height: high * 0.4 }
    : { left: (width - wide) / 2, top: (height - high) / 2, width: wide, height: high };
  const shows = marking ? (placing ? 0.25 : 0.75) : how === "over" ? share : 1;
  const cut = how === "wipe" && !marking ? `inset(0 ${100 * (1 - share)}% 0 0)` : undefined;
  return (
    <>
      <img
        src={urls.cardPicture(shot.reference)}
        alt={`Reference of ${shot.name}`}
        data-reference={how}
        className={`pointer-events-none absolute object-fill ${beside ? "border border-ink" : ""}`}
        style={{ ...box, opacity: shows, clipPath: cut }}
      />
      {marking && !placing && <Marks box={box} marking={marking} />}
      {!clean && (
        <div
          className={
            "absolute top-3 left-3 flex max-w-[640px] flex-wrap items-center gap-2 border border-ink " +
            "bg-paper px-3 py-1"
          }
        >
          {marking ? (
            <MarkBar marking={marking} placing={placing} />
          ) : (
            <>
              <span>Reference</span>
              {(["over", "wipe", "beside"] as const).map((x) => (
                <button
                  key={x}
                  className={`btn ${how === x ? "on" : ""}`}
                  onClick={() => set({ reference: { how: x, share } })}
                >
                  {x}
                </button>
              ))}
              {how !== "beside" && (
                <input
                  type="range"
                  className="w-[110px] accent-moss"
                  aria-label="Share of the reference"
                  min={0}
                  max={1}
                  step={0.01}
                  value={share}
                  onChange={(e) => set({ reference: { how, share: +e.target.value } })}
                />
              )}
              <button className="btn" data-match onClick={() => beginMarking(shot.id)}>
                match…
              </button>
            </>
          )}
        </div>
      )}
    </>
  );
}

function MarkBar({ marking, placing }: { marking: Marking; placing: boolean }) {
  const last = marking.places[marking.places.length - 1];
  return (
    <>
      {(Object.keys(WORDS) as Marking["what"][]).map((what) => (
        <button
          key={what}
          className={`btn ${marking.what === what ? "on" : ""}`}
          data-mark={what}
          onClick={() => markNow(what)}
        >
          {WORDS[what]}
        </button>
      ))}
      {marking.what === "places" && last && (
        <label>
          the last is{" "}
          <input
            className="text w-[52px]"
            type="number"
            step={0.1}
            aria-label="Height of the mark over the ground"
            value={last.over}
            onChange={(e) => overGround(+e.target.value)}
          />{" "}
          m over the ground
        </label>
      )}
      <button
        className="btn do"
        data-match-now
        disabled={!enough(marking)}
        onClick={() => void matchShot()}
      >
        match
      </button>
      <button className="underline" onClick={endMarking}>
        leave
      </button>
      <span className="basis-full text-soft">
        {placing ? "Now click its place, in the view or on the map." : SAYS[marking.what]}
      </span>
    </>
  );
}

/** The marks that are set, and where the next is clicked. */
function Marks({
  box,
  marking,
}: {
  box: { left: number; top: number; width: number; height: number };
  marking: Marking;
}) {
  const { width, height } = box;
  const at = ([x, y]: [number, number]) => [x * width, y * height];
  const line = (points: [number, number][], key: string) => {
    const [a, b] = points.map(at);
    return b ? (
      <path key={key} d={`M${a[0]} ${a[1]}L${b[0]} ${b[1]}`} stroke={INK} strokeWidth={2} />
    ) : null;
  };
  const all = [...marking.horizon, ...marking.uprights.flat()];
  return (
    <svg
      className="absolute cursor-crosshair"
      style={box}
      width={width}
      height={height}
      fontSize={12}
      data-marks={all.length + marking.places.length}
      onPointerDown={(e) => {
        const r = e.currentTarget.getBoundingClientRect();
        markPicture([(e.clientX - r.left) / r.width, (e.clientY - r.top) / r.height]);
      }}
    >
      {line(marking.horizon, "horizon")}
      {marking.uprights.map((l, i) => line(l, `upright ${i}`))}
      {all.map((p, i) => {
        const [x, y] = at(p);
        return <circle key={i} cx={x} cy={y} r={4} fill="#f4efe4" stroke={INK} strokeWidth={2} />;
      })}
      {marking.places.map((p, i) => {
        const [x, y] = at(p.at);
        return (
          <g key={`place ${i}`}>
            <circle cx={x} cy={y} r={5} fill={p.ground ? INK : "#f4efe4"} stroke={INK} />
            <text x={x + 8} y={y + 4} fill={INK}>
              {i + 1}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
