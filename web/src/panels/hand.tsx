/**
 * The brushes: their tools beside the neat line, their settings in the key, and the last stroke to
 * be turned down.
 */
import { brush, repeatStroke, setBrush, type Brush } from "../actions/brush";
import { drag, edit, set, usePage } from "../state";
import { MaskKey } from "./masks";
import { put, Range, Settings, type Path } from "./settings";
import { Where } from "./where";

const TOOLS: [string, string, string][] = [
  ["raise", "Raise", "M2 13h14M5 13c1-6 3-8 4-8s3 2 4 8M9 1v3M7 3l2-2 2 2"],
  ["lower", "Lower", "M2 5h14M5 5c1 6 3 8 4 8s3-2 4-8M9 10v4M7 12l2 2 2-2"],
  ["smooth", "Smooth", "M2 12l2-4 2 3 2-6 2 5M10 10c2 0 4-2 6-2"],
  ["level", "Level", "M2 9h14M5 6v6M13 6v6"],
  ["roughen", "Roughen", "M2 11l2-3 1.5 3L8 5l2 6 2-4 1.5 3L16 8"],
  ["pull", "Pull", "M2 14c4 0 4-9 7-9s3 9 7 9M9 1v8M7 3l2-2 2 2"],
  ["grade", "Grade", "M2 14L16 4M2 14h4M12 4h4"],
  ["basin", "Basin", "M1 6h3c1 6 3 7 5 7s4-1 5-7h3"],
  ["cut", "Cut", "M2 9h4c0-5 2-7 3-7M12 9h4M6 9h6"],
  ["fill", "Fill", "M2 5h3c0 6 2 8 4 8s4-2 4-8h3M5 9h8"],
  ["rub", "Rub out", "M4 12l6-8 5 4-6 7H5zM7 8l5 4"],
];

const ON_MASKS: [string, string, string][] = [
  ["paint", "Paint", "M3 14c1-3 3-3 4-4l6-8 2 2-7 7c-1 1-1 3-5 3z"],
  ["rub", "Rub out", "M4 12l6-8 5 4-6 7H5zM7 8l5 4"],
  ["smooth", "Soften", "M2 12l2-4 2 3 2-6 2 5M10 10c2 0 4-2 6-2"],
];

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
            className={`btn -ml-px h-[26px] px-[6px]! ${tool === "brush" && used === id ? "on" : ""}`}
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

/** Size, softness and firmness of the brush for masks. */
export function MaskBrush() {
  const schema = usePage((s) => s.schema);
  const b = usePage((s) => s.brush) ?? brush();
  const props = schema.scene.$defs.Stroke.properties;
  return (
    <>
      {["size_m", "soft", "firm"].map((n) => {
        const p = props[n];
        return (
          <Range
            key={n}
            label={`Brush: ${p.title.toLowerCase()}`}
            value={b[n] as number}
            unit={p.sow.unit}
            min={p.minimum}
            max={p.maximum}
            low={p.sow.slider[0] ?? p.minimum}
            high={p.sow.slider[1] ?? p.maximum}
            log={p.sow.scale === "log"}
            help={p.description}
            onDrag={(v) => setBrush({ [n]: v } as Partial<Brush>)}
            onKeep={(v) => setBrush({ [n]: v } as Partial<Brush>)}
          />
        );
      })}
    </>
  );
}

/** Settings of the brush, made from the schema as an entry's are, and of the last stroke. */
export function HandPanel({ path, entry }: { path: Path; entry: any }) {
  const schema = usePage((s) => s.schema);
  const b = usePage((s) => s.brush) ?? brush();
  const props = schema.scene.$defs.Stroke.properties;
  const last = entry.strokes.length - 1;
  const marks = usePage((s) => s.doc!.marks);
  const shows = (p: any) =>
    !p.sow?.only ||
    Object.entries<string[]>(p.sow.only).every(([k, v]) => v.includes(b[k] as string));
  return (
    <div data-hand>
      <div className="mt-1 font-semibold">
        Brush{" "}
        <span className="font-normal text-soft">
          {(props.tool.enum as string[]).includes(b.tool) ? b.tool : ""}; choose one on the face
        </span>
      </div>
      {Object.entries<any>(props)
        .filter(
          ([n, p]) =>
            !["tool", "points", "seed", "amount", "where", "picture"].includes(n) && shows(p),
        )
        .map(([n, p]) =>
          p.enum ? (
            <div key={n} className="mt-1 flex items-center justify-between">
              <span>{p.title}</span>
              <span className="flex">
                {p.enum.map((o: string) => (
                  <button
                    key={o}
                    className={`btn -ml-px ${b[n] === o ? "on" : ""}`}
                    onClick={() => setBrush({ [n]: o } as Partial<Brush>)}
                  >
                    {p.sow?.labels?.[o] ?? o}
                  </button>
                ))}
              </span>
            </div>
          ) : (
            <Range
              key={n}
              label={p.title}
              value={b[n] as number}
              unit={p.sow.unit}
              min={p.minimum}
              max={p.maximum}
              low={typeof p.sow.slider[0] === "number" ? p.sow.slider[0] : -100}
              high={typeof p.sow.slider[1] === "number" ? p.sow.slider[1] : 500}
              log={p.sow.scale === "log"}
              help={p.description}
              onDrag={(v) => setBrush({ [n]: v } as Partial<Brush>)}
              onKeep={(v) => setBrush({ [n]: v } as Partial<Brush>)}
            />
          ),
        )}
      {marks.some((m) => m.kind === "mask") && (
        <label className="mt-1 flex items-center justify-between">
          Shape from a picture
          <select
            className="text"
            value={b.picture as string}
            onChange={(e) => setBrush({ picture: e.target.value })}
          >
            <option value="">round</option>
            {marks
              .filter((m) => m.kind === "mask")
              .map((m) => (
                <option key={m.id} value={m.id}>
                  {m.name}
                </option>
              ))}
          </select>
        </label>
      )}
      <div className="mt-2 border-t border-rule pt-1">
        <span className="font-semibold">Last stroke</span>{" "}
        <span className="text-soft">
          {last < 0
            ? "none yet: choose a brush on the face and draw on the land"
            : `${entry.strokes[last].tool}, of ${entry.count} in all`}
        </span>
        {last >= 0 && (
          <>
            <Range
              label="Amount"
              value={entry.strokes[last].amount}
              unit="%"
              min={-200}
              max={300}
              low={0}
              high={200}
              log={false}
              step={1}
              help="A little less, or more, after the fact."
              onDrag={(v) => drag((d) => put(d, [...path, "strokes", last, "amount"], v))}
              onKeep={(v) =>
                void edit(`${entry.name}: last stroke ${Math.round(v)} %`, (d) =>
                  put(d, [...path, "strokes", last, "amount"], v),
                )
              }
            />
            <button className="btn mt-1" data-repeat onClick={repeatStroke}>
              Once more
            </button>
            <Where
              path={[...path, "strokes", last]}
              stage="land"
              owner={`${entry.name}, last stroke`}
            />
          </>
        )}
      </div>
      <Settings
        path={path}
        model={schema.scene.$defs.ByHand}
        owner={entry.name}
        skip={["raster", "strokes", "count", "combine", "share", "join_m"]}
      />
    </div>
  );
}
