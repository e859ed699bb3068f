import { useRef } from "react";
import { contourHere } from "../../actions/contour";
import * as calls from "../../api/calls";
import { freshId } from "../../document/ids";
import { complete } from "../../document/schema";
import { edit } from "../../state/edits";
import { get, set, usePage } from "../../state/store";
import { tell } from "../../state/trouble";

/** Lines and areas are drawn on the map, or come from a file. */
export function DrawButtons() {
  const tool = usePage((s) => s.tool);
  const pinned = usePage((s) => s.pinned && !!s.place);
  const input = useRef<HTMLInputElement>(null);
  const read = async (file: File) => {
    try {
      const { id } = get();
      const schema = get().catalogue!.scene;
      const lines = await calls.readLines(id!, file);
      await edit(`Lines of ${file.name}`, (d) =>
        lines.slice(0, 100).forEach((l, i) => {
          const closed =
            l.points.length > 3 && l.points[0].join() === l.points[l.points.length - 1].join();
          const kind = closed ? "area" : "line";
          d.marks.push(
            complete(schema, schema.$defs[closed ? "Area" : "Line"], {
              id: freshId(kind),
              name: `${file.name.replace(/\.[^.]+$/, "").slice(0, 60)} ${i + 1}`,
              kind,
              on: true,
              smooth: false,
              points: closed ? l.points.slice(0, -1) : l.points,
            }),
          );
        }),
      );
    } catch (e) {
      tell(e);
    }
  };
  return (
    <>
      {(["line", "area"] as const).map((k) => (
        <button
          key={k}
          className={`btn ${tool === k ? "on" : ""}`}
          data-draw={k}
          onClick={() =>
            set({ tool: tool === k ? null : k, drawing: [], mapOnFace: true, chosen: null })
          }
        >
          Draw {k === "line" ? "a line" : "an area"}
        </button>
      ))}
      <button
        className="btn"
        data-contour-line
        title="Point at a place and click it first"
        disabled={!pinned}
        onClick={() => void contourHere()}
      >
        Contour here
      </button>
      <button className="btn" onClick={() => input.current?.click()}>
        GeoJSON, SVG…
      </button>
      <input
        ref={input}
        type="file"
        accept=".json,.geojson,.svg"
        className="hidden"
        onChange={(e) => {
          const f = e.target.files?.[0];
          if (f) void read(f);
          e.target.value = "";
        }}
      />
    </>
  );
}
