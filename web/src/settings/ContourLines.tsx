import { Trash2 } from "lucide-react";
import { useRef } from "react";
import * as calls from "../api/calls";
import { shown } from "../document/numbers";
import { at, type Path, put } from "../document/path";
import { edit } from "../state/edits";
import { get, set, usePage } from "../state/store";
import { tell } from "../state/trouble";

interface ContourLine {
  height_m: number;
  points: number[][];
}

async function readFile(path: Path, owner: string, file: File) {
  try {
    const lines = await calls.readContours(get().id!, file);
    await edit(`${owner}: contours of ${file.name}`, (d) => put(d, [...path, "lines"], lines));
  } catch (e) {
    tell(e);
  }
}

export function ContourLines({ path, owner }: { path: Path; owner: string }) {
  const lines = usePage((s) => at(s.doc, [...path, "lines"]) as ContourLine[]) ?? [];
  const tool = usePage((s) => s.tool);
  const input = useRef<HTMLInputElement>(null);
  const length = (l: ContourLine) =>
    l.points
      .slice(1)
      .reduce((a, p, i) => a + Math.hypot(p[0] - l.points[i][0], p[1] - l.points[i][1]), 0);
  return (
    <div className="mt-1" data-contours>
      <div className="flex flex-wrap items-center gap-1">
        <button
          className={`btn ${tool === "contour" ? "on" : ""}`}
          data-draw-contour
          onClick={() => set({ tool: tool === "contour" ? null : "contour", mapOnFace: true })}
        >
          Draw a line on the map
        </button>
        <button className="btn" onClick={() => input.current?.click()}>
          GeoJSON or SVG…
        </button>
        <input
          ref={input}
          type="file"
          accept=".json,.geojson,.svg"
          className="hidden"
          onChange={(e) => {
            const f = e.target.files?.[0];
            if (f) void readFile(path, owner, f);
            e.target.value = "";
          }}
        />
      </div>
      {!lines.length && (
        <p className="text-soft">No lines yet. Two or more at different heights make a slope.</p>
      )}
      <div className="mt-1 max-h-[120px] overflow-auto">
        {lines.map((l, i) => (
          <div key={i} className="flex items-center gap-2 border-b border-rule/60">
            <span className="text-soft">{i + 1}</span>
            <input
              className="num w-14"
              aria-label={`Height of line ${i + 1} in m`}
              defaultValue={l.height_m}
              key={l.height_m}
              onBlur={(e) => {
                const v = parseFloat(e.target.value);
                if (Number.isFinite(v) && v !== l.height_m)
                  void edit(`${owner}: line ${i + 1}`, (d) =>
                    put(d, [...path, "lines", i, "height_m"], v),
                  );
              }}
              onKeyDown={(e) => {
                if (e.key === "Enter") (e.target as HTMLElement).blur();
                e.stopPropagation();
              }}
            />
            <span className="text-soft">m</span>
            <span className="grow text-soft">{shown(length(l))} m long</span>
            <button
              className="icon"
              aria-label={`Remove line ${i + 1}`}
              onClick={() =>
                void edit(`${owner}: line ${i + 1} removed`, (d) =>
                  at<{ lines: unknown[] }>(d, path).lines.splice(i, 1),
                )
              }
            >
              <Trash2 size={12} />
            </button>
          </div>
        ))}
      </div>
    </div>
  );
}
