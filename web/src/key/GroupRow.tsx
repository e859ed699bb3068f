import { Eye, EyeOff } from "lucide-react";
import type { Scene } from "../api/shapes";
import type { Entry } from "../document/entry";
import { type ListName, listOf } from "../document/lists";
import { edit } from "../state/edits";
import { hideAll } from "../state/hiding";
import { usePage } from "../state/store";

/** Lists whose groups may span ground, plants and pieces. */
const SPANNING: ListName[] = ["ground", "planting", "pieces"];

/** Every entry that a group of a list may hold. */
function members(doc: Scene, list: ListName): Entry[] {
  if (!SPANNING.includes(list)) return listOf(doc, list);
  return [...listOf(doc, "ground"), ...listOf(doc, "planting"), ...listOf(doc, "pieces")];
}

/** The head of a group: folds it, and turns all of it on or off. */
export function GroupRow({
  list,
  group,
  entries,
  folded,
  onFold,
}: {
  list: ListName;
  group: string;
  entries: Entry[];
  folded: boolean;
  onFold: () => void;
}) {
  const doc = usePage((s) => s.doc!);
  const own = members(doc, list).filter((e) => e.group === group);
  const ids = own.map((e) => e.id);
  const whole = own.length;
  const away = usePage((s) => ids.every((id) => s.hidden.has(id)));
  const turn = (on: boolean) =>
    void edit(`Group ${group}: ${on ? "on" : "off"}`, (d) => {
      for (const e of members(d, list)) if (e.group === group) e.on = on;
    });
  return (
    <div
      className={
        "mt-1 flex items-center gap-2 border-b border-rule bg-paper2/70 px-1 " + "text-[12px]"
      }
    >
      <button className="grow text-left font-semibold" aria-expanded={!folded} onClick={onFold}>
        {folded ? "▸" : "▾"} {group}{" "}
        <span className="font-normal text-soft">
          {entries.length}
          {whole > entries.length ? `, ${whole} with ground, plants and pieces` : ""}
        </span>
      </button>
      <button
        className="icon"
        title={away ? "Hidden in the view only" : "Hide all of it in the view, not in stills"}
        aria-label={`Hide group ${group} in the view`}
        aria-pressed={away}
        onClick={() => hideAll(ids, !away)}
      >
        {away ? <EyeOff size={13} /> : <Eye size={13} />}
      </button>
      <label className="flex items-center gap-1 text-soft">
        <input
          type="checkbox"
          className="accent-moss"
          aria-label={`Group ${group} on`}
          checked={entries.every((e) => e.on)}
          onChange={(ev) => turn(ev.target.checked)}
        />
        on
      </label>
    </div>
  );
}
