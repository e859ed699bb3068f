import { doWork } from "../../actions/work";
import type { Sowing } from "../../api/shapes";
import { NumberField } from "../../controls/NumberField";
import { at, type Path } from "../../document/path";
import { complete, modelOf } from "../../document/schema";
import { edit } from "../../state/edits";
import { get, set } from "../../state/store";

/** Whether a part of a mix is meant by what is sought: by name, family or tag of its kind. */
export function among(p: { kind: string }, sought: string): boolean {
  const k = get().cabinet?.kinds.find((x) => x.name === p.kind);
  const text = `${k?.label ?? ""} ${p.kind} ${k?.family ?? ""} ${k?.tags ?? ""}`.toLowerCase();
  return sought
    .toLowerCase()
    .split(/\s+/)
    .every((w) => text.includes(w));
}

/**
 * Some kinds of a mix, found by a word: their number beside the total, and their amount and size
 * changed together; the others keep theirs.
 */
export function Chosen({
  entry,
  counts,
  sought,
  onSeek,
}: {
  entry: Sowing;
  counts: number[];
  sought: string;
  onSeek: (v: string) => void;
}) {
  const mine = entry.mix.map((p) => among(p, sought)) as boolean[];
  const stand = counts.reduce((a, n, i) => a + (mine[i] ? n : 0), 0);
  const all = counts.reduce((a, n) => a + n, 0);
  const some = sought.trim() !== "" && mine.some(Boolean);
  const change = (more: object) =>
    void doWork("some kinds of a mix", {
      sowing: entry.id,
      kinds: mine.flatMap((is, i) => (is ? [i] : [])),
      stand: counts,
      sought,
      ...more,
    });
  return (
    <div className="mt-1 border-t border-rule/60 pt-1" data-chosen-kinds={some ? stand : ""}>
      <input
        className="text w-full"
        aria-label="Find kinds of the mix"
        placeholder="find some of these kinds: flower, white, stone…"
        value={sought}
        onChange={(e) => onSeek(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Escape") onSeek("");
          e.stopPropagation();
        }}
      />
      {some && (
        <div className="flex flex-wrap items-baseline justify-between gap-x-2 text-[12px]">
          <span>
            <b>{stand.toLocaleString("en")}</b> of {all.toLocaleString("en")} are these
          </span>
          <span>
            make them{" "}
            <NumberField
              label="Number of the chosen kinds"
              value={stand}
              unit=""
              onKeep={(number) => change({ number })}
            />
          </span>
          <span>
            size{" "}
            <NumberField
              label="Size of the chosen kinds"
              value={100}
              unit="% of now"
              onKeep={(size) => change({ size })}
            />
          </span>
        </div>
      )}
    </div>
  );
}

/** A painted mask of the sowing's own is made, if there is none, and taken in hand. */
export function brushOn(entry: Sowing, path: Path) {
  const { doc } = get();
  const schema = get().catalogue!.scene;
  const id = `sown-${entry.id}`;
  if (!doc!.marks.some((m) => m.id === id))
    void edit(`${entry.name}: brushed on`, (d) => {
      d.marks.push(
        complete(schema, schema.$defs.Mask, {
          id,
          name: `${entry.name}, painted`.slice(0, 80),
          kind: "mask",
          on: true,
        }),
      );
      at<Sowing>(d, path).where.push(
        complete(schema, modelOf(schema, "where", "mask"), { kind: "mask", mark: id }),
      );
    });
  set({ chosen: id, tool: "brush", open: "planting" });
}
