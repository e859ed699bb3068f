import { brush, repeatStroke, setBrush } from "../../actions/brush";
import type { ByHand, Prop } from "../../api/shapes";
import { Range } from "../../controls/Range";
import { type Path, put } from "../../document/path";
import { Settings } from "../../settings/Settings";
import { widgetOf } from "../../settings/widgets";
import { drag, edit } from "../../state/edits";
import type { Brush } from "../../state/slices";
import { usePage } from "../../state/store";
import { Where } from "../where/Where";

/** Fields of a stroke that are no setting of the brush. */
const APART = ["tool", "points", "seed", "amount", "where", "picture"];

/** Settings of the brush, made from the schema as an entry's are, and of the last stroke. */
export function HandPanel({ path, entry }: { path: Path; entry: ByHand }) {
  const schema = usePage((s) => s.catalogue!.scene);
  const b = usePage((s) => s.brush) ?? brush();
  const props = schema.$defs.Stroke.properties;
  const last = entry.strokes.length - 1;
  const marks = usePage((s) => s.doc!.marks);
  const shows = (p: Prop) =>
    Object.entries(p.sow?.only ?? {}).every(([k, v]) => v.includes(b[k] as string));
  const fields = Object.entries(props).filter(([n, p]) => !APART.includes(n) && shows(p));
  return (
    <div data-hand>
      <div className="mt-1 font-semibold">
        Brush{" "}
        <span className="font-normal text-soft">
          {props.tool.enum?.includes(b.tool) ? b.tool : ""}; choose one on the face
        </span>
      </div>
      {fields.map(([name, prop]) => {
        const Widget = widgetOf(prop);
        const keep = (value: unknown) => setBrush({ [name]: value } as Partial<Brush>);
        return Widget ? (
          <Widget
            key={name}
            prop={prop}
            name={name}
            label={prop.title ?? name}
            value={b[name]}
            owner="Brush"
            path={[]}
            onDrag={keep}
            onKeep={keep}
          />
        ) : null;
      })}
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
        model={schema.$defs.ByHand}
        owner={entry.name}
        skip={["raster", "strokes", "count", "combine", "share", "join_m"]}
      />
    </div>
  );
}
