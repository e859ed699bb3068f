import { useState } from "react";
import { buildAlong, type Reshape, reshape } from "../../actions/lines";
import type { DrawnMark } from "../../api/shapes";
import { shown } from "../../document/numbers";
import { usePage } from "../../state/store";

/** Numbers of a list that was typed, as in "12, 30.5". */
const placesIn = (text: string): number[] =>
  text
    .split(/[^\d.]+/)
    .map(parseFloat)
    .filter(Number.isFinite);

/** Work on the whole of a line or an area's edge. */
export function LineTools({ entry }: { entry: DrawnMark }) {
  const length = entry.points
    .slice(1)
    .reduce(
      (a: number, p: number[], i: number) =>
        a + Math.hypot(p[0] - entry.points[i][0], p[1] - entry.points[i][1]),
      0,
    );
  const line = entry.kind === "line";
  const marks = usePage((s) => s.doc!.marks);
  const others = marks.filter((m) => m.kind === "line" && m.id !== entry.id);
  const plot = usePage((s) => s.doc!.plot);
  const reach = Math.max(plot.width_m, plot.depth_m);
  const nice = (v: number) => +v.toPrecision(2);
  const grounds = usePage((s) => s.cabinet!.grounds);
  const [cloth, setCloth] = useState("gravel");
  const [other, setOther] = useState("");
  const [off, setOff] = useState(nice(reach * 0.01));
  const [spare, setSpare] = useState(nice(reach * 0.004));
  const [from, setFrom] = useState(0);
  const [to, setTo] = useState(100);
  const [tall, setTall] = useState(1.5);
  const [thick, setThick] = useState(0.4);
  const [coping, setCoping] = useState(0);
  const [gaps, setGaps] = useState("");
  const [gap, setGap] = useState(1.2);
  const [broad, setBroad] = useState(1.2);
  const [long, setLong] = useState(0.8);
  const second = other || others[0]?.id || "";
  const button = (k: Reshape, label: string, more: object = {}) => (
    <button key={k} className="btn" data-reshape={k} onClick={() => void reshape(k, more)}>
      {label}
    </button>
  );
  const number = (label: string, value: number, put: (v: number) => void, unit: string) => (
    <>
      <input
        className="num w-[6ch]"
        aria-label={label}
        value={value}
        onChange={(e) => put(+e.target.value || 0)}
        onKeyDown={(e) => e.stopPropagation()}
      />
      <span className="text-soft">{unit}</span>
    </>
  );
  return (
    <div className="mt-1" data-line-tools>
      <div className="text-[11.5px] text-soft">
        {entry.points.length} points, {shown(length)} m. On the map: drag a point, press on the way
        to add one, double-click a point to take it out, Shift-click it to make it a corner.
      </div>
      <div className="mt-1 flex flex-wrap items-center gap-1">
        {button("reverse", "Turn round")}
        {button(line ? "close" : "open", line ? "Close to an area" : "Open to a line")}
        {line && button("split", "Split in the middle")}
      </div>
      <div className="mt-1 flex flex-wrap items-center gap-1">
        {button("simplify", "Simplify", { amount_m: spare })}within{" "}
        {number("Tolerance in m", spare, setSpare, "m")}
      </div>
      {line && (
        <div className="mt-1 flex flex-wrap items-center gap-1">
          Copy at {number("Offset in m", off, setOff, "m")}
          {button("left", "to its left", { amount_m: off })}
          {button("right", "to its right", { amount_m: off })}
        </div>
      )}
      {line && (
        <div className="mt-1 flex flex-wrap items-center gap-1">
          {button("stretch", "Copy the stretch", { start: from, end: to })}from{" "}
          {number("From per cent", from, setFrom, "%")}to {number("To per cent", to, setTo, "%")}
        </div>
      )}
      <div className="mt-1 flex flex-wrap items-center gap-1">
        <button className="btn" data-carry onClick={() => void reshape("carry", { ground: cloth })}>
          Lay a material {line ? "along it" : "in it"}
        </button>
        <select
          className="text"
          aria-label="Material to lay"
          value={cloth}
          onChange={(e) => setCloth(e.target.value)}
        >
          {grounds
            .filter((g) => g.family === g.name)
            .map((g) => (
              <option key={g.name} value={g.name}>
                {g.label}
              </option>
            ))}
        </select>
      </div>
      <div className="mt-1 flex flex-wrap items-center gap-1">
        <button
          className="btn"
          data-build="wall"
          onClick={() =>
            void buildAlong("wall", {
              tall_m: tall,
              thick_m: thick,
              coping_cm: coping,
              openings: placesIn(gaps).map((at) => [at, gap]),
            })
          }
        >
          Build a wall
        </button>
        high {number("Height in m", tall, setTall, "m")}
        thick {number("Thickness in m", thick, setThick, "m")}
        coping {number("Coping in cm", coping, setCoping, "cm")}
        open at
        <input
          className="text w-[10ch]"
          aria-label="Openings, m along the line"
          placeholder="none"
          value={gaps}
          onChange={(e) => setGaps(e.target.value)}
          onKeyDown={(e) => e.stopPropagation()}
        />
        <span className="text-soft">m,</span> each {number("Opening in m", gap, setGap, "m")}
      </div>
      <div className="mt-1 flex flex-wrap items-center gap-1">
        <button
          className="btn"
          data-build="slabs"
          onClick={() => void buildAlong("slabs", { thick_m: broad, stretch_m: long })}
        >
          Lay slabs
        </button>
        broad {number("Breadth in m", broad, setBroad, "m")}
        long {number("Length in m", long, setLong, "m")}
      </div>
      {line && others.length > 0 && (
        <div className="mt-1 flex flex-wrap items-center gap-1">
          {button("join", "Join with", { other: second })}
          <select
            className="text max-w-[130px]"
            aria-label="Line to join with"
            value={second}
            onChange={(e) => setOther(e.target.value)}
          >
            {others.map((m) => (
              <option key={m.id} value={m.id}>
                {m.name}
              </option>
            ))}
          </select>
        </div>
      )}
    </div>
  );
}
