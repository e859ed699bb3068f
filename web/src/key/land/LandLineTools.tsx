import { useEffect, useState } from "react";
import * as calls from "../../api/calls";
import type { Entry } from "../../document/entry";
import type { ListName } from "../../document/lists";
import { put } from "../../document/path";
import { edit, without } from "../../state/edits";
import { engine } from "../../state/engine";
import { get, set, usePage } from "../../state/store";
import { fetchSheet } from "../../view/products";

/** Hold to see the scene without an entry; where its land shows; its group. */
export function LandLineTools({
  list,
  entry,
  path,
}: {
  list: ListName;
  entry: Entry;
  path: (string | number)[];
}) {
  const held = usePage((s) => s.without === entry.id);
  const shows = usePage((s) => s.sheet?.kind === "shows" && s.sheet.entry === entry.id);
  const [group, setGroup] = useState(entry.group ?? "");
  useEffect(() => setGroup(entry.group ?? ""), [entry.group]);
  // choosing a landform lights up its extent for a moment
  useEffect(() => {
    if (!entry.combine || list !== "land" || !get().manifest || get().manifest!.draft || !entry.on)
      return;
    let over = false;
    void (async () => {
      try {
        const a = await calls.survey(get().id!, {
          document: get().doc,
          kind: "shows",
          entry: entry.id,
        });
        const values = await fetchSheet(a.key);
        if (over || get().sheet) return;
        engine.view?.wash(Uint8Array.from(values, (v) => Math.round(v * 255)));
        setTimeout(() => {
          if (!over && !get().sheet) engine.view?.wash(null);
        }, 1500);
      } catch {
        /* the build tells what is wrong */
      }
    })();
    return () => {
      over = true;
      if (!get().sheet) engine.view?.wash(null);
    };
  }, [entry.id, entry.combine, entry.on, list]);
  const release = () => {
    if (get().without) without(null);
  };
  return (
    <div className="mt-1 flex items-center gap-1">
      <button
        className={`btn ${held ? "on" : ""}`}
        title="Held, the scene is shown without this entry"
        data-without
        onPointerDown={() => without(entry.id)}
        onPointerUp={release}
        onPointerLeave={release}
        onKeyDown={(e) => {
          if ((e.key === " " || e.key === "Enter") && !e.repeat) {
            e.preventDefault();
            without(entry.id);
          }
        }}
        onKeyUp={release}
        onBlur={release}
      >
        hold: without
      </button>
      {!!entry.combine && list === "land" && (
        <button
          className={`btn ${shows ? "on" : ""}`}
          aria-pressed={shows}
          onClick={() =>
            set((s) => ({
              sheet: shows
                ? null
                : {
                    kind: "shows",
                    entry: entry.id,
                    latitude: s.sheet?.latitude ?? 50,
                    day: s.sheet?.day ?? 172,
                  },
            }))
          }
        >
          where it shows
        </button>
      )}
      <input
        className="text min-w-0 grow"
        placeholder="group"
        aria-label="Group"
        value={group}
        maxLength={40}
        onChange={(e) => setGroup(e.target.value)}
        onBlur={() => {
          if (group.trim() !== (entry.group ?? ""))
            void edit(`${entry.name}: group`, (d) => put(d, [...path, "group"], group.trim()));
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter") (e.target as HTMLInputElement).blur();
          e.stopPropagation();
        }}
      />
    </div>
  );
}
