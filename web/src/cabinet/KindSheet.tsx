import { useEffect, useState } from "react";
import { addEntry } from "../actions/work";
import * as calls from "../api/calls";
import type { KindFacts } from "../api/shapes";
import * as urls from "../api/urls";
import { shown } from "../document/numbers";
import { at } from "../document/path";
import { complete, modelOf } from "../document/schema";
import { refreshCabinet } from "../state/catalogue";
import { edit } from "../state/edits";
import { get, set, usePage } from "../state/store";
import { tell } from "../state/trouble";
import { ReadAgain, ReplacedTable } from "./ReadAgain";
import { Turning } from "./Turning";
import { putInto } from "./ownDrawers";

export function KindSheet({ name, look }: { name: string; look: string }) {
  const line = usePage((s) => s.cabinet!.kinds.find((k) => k.name === name));
  const chosen = usePage((s) => s.doc?.planting.find((p) => p.id === s.chosen));
  const [facts, setFacts] = useState<KindFacts | null>(null);
  const revision = usePage((s) => s.state?.revision);
  const drawers = usePage((s) => s.cabinet!.drawers);
  const replaced = usePage((s) => s.cabinetAt?.replaced);
  useEffect(() => {
    const halt = new AbortController();
    calls
      .kindFacts(name, halt.signal)
      .then(setFacts)
      .catch((e) => {
        if (!halt.signal.aborted) tell(e);
      });
    return () => halt.abort();
  }, [name, revision]);
  if (!line) return null;
  const wears = line.looks.includes(look) ? look : "summer";
  const schema = get().catalogue!.scene;
  const sowIt = () => {
    set({ cabinetAt: null, open: "planting" });
    void addEntry("planting", line.name);
  };
  const addTo = () => {
    const index = get().doc!.planting.findIndex((s) => s.id === chosen!.id);
    void edit(`${chosen!.name}: ${line.label} added`, (d) =>
      (at(d, ["planting", index]) as { mix: unknown[] }).mix.push(
        complete(schema, modelOf(schema, "mix"), { kind: line.name, share: 10 }),
      ),
    );
    set({ told: `${line.label} is now in “${chosen!.name}”.` });
  };
  const takeOut = () => {
    const used = facts?.used.length ?? 0;
    const go = () =>
      void calls
        .deletePart(line.part!)
        .then(async () => {
          set({ cabinetAt: { drawer: "own", kind: null } });
          await refreshCabinet();
        })
        .catch(tell);
    if (used)
      set({
        confirm: {
          text:
            `“${line.label}” is used in ` +
            `${facts!.used.map((u) => `“${u.name}”`).join(", ")}. It stays there; it ` +
            "only leaves the drawer.",
          yes: go,
        },
      });
    else go();
  };
  return (
    <div data-kind-sheet={name}>
      <Turning name={name} look={wears} px={206} />
      <b className="font-show text-[16px]">{line.label}</b>{" "}
      <span className="text-soft">
        {line.family}
        {line.tags ? `, ${line.tags}` : ""}
      </span>
      {line.gone && (
        <p className="text-rust">
          Its model is not in the store; a bare stake stands for it. Bring its file in again, or
          choose another kind.
        </p>
      )}
      <div className="mt-1 grid grid-cols-[auto_1fr] gap-x-3 text-[12px]">
        <span className="text-soft">Height</span>
        <span>{shown(line.height_m)} m at size 100 %</span>
        <span className="text-soft">Across</span>
        <span>{shown(2 * line.reach_m)} m</span>
        <span className="text-soft">Variants</span>
        <span>{line.variants}</span>
        <span className="text-soft">Looks</span>
        <span>{line.looks.join(", ")}</span>
        {facts && (
          <>
            <span className="text-soft">Triangles</span>
            <span data-triangles>
              {facts.triangles.map((t) => t.toLocaleString("en")).join(" · ")}
              {facts.far_m.length
                ? `, changing at ${facts.far_m.map((f) => shown(f)).join(" and ")} m`
                : ""}
            </span>
          </>
        )}
        {line.surfaces.length > 0 && (
          <>
            <span className="text-soft">Surfaces</span>
            <span>
              {line.surfaces.length > 6
                ? `${line.surfaces.length}, ${line.surfaces.slice(0, 3).join(", ")}…`
                : line.surfaces.join(", ")}
            </span>
          </>
        )}
      </div>
      <div className="mt-2 flex flex-wrap gap-1">
        <button className="btn do" data-sow-kind onClick={sowIt}>
          Sow it
        </button>
        <button
          className="btn"
          data-stand
          onClick={() =>
            set({ cabinetAt: null, tool: "figure", placing: line.name, open: "planting" })
          }
        >
          Stand one
        </button>
        {chosen && (
          <button className="btn" data-add-to onClick={addTo}>
            Add to “{chosen.name.slice(0, 14)}”
          </button>
        )}
        <a
          className="btn"
          href={urls.kindFile(name, wears)}
          download
          title="With its variants and levels"
        >
          GLB
        </a>
      </div>
      {drawers.length > 0 && (
        <div className="mt-1 flex flex-wrap gap-1">
          {drawers.map((d) => (
            <button
              key={d.id}
              className={`btn ${d.kinds.includes(name) ? "on" : ""}`}
              aria-pressed={d.kinds.includes(name)}
              data-into-drawer={d.name}
              onClick={() => putInto(d, name)}
            >
              {d.name}
            </button>
          ))}
        </div>
      )}
      {line.part !== null && facts?.settings && (
        <div className="mt-1 flex flex-wrap gap-1">
          <button
            className="btn"
            data-change-kind
            onClick={() =>
              set({
                cabinetAt: {
                  drawer: "own",
                  kind: name,
                  part: line.part!,
                  model: {
                    source: facts.source,
                    name: line.label,
                    triangles: facts.triangles[0],
                    size: [],
                    surfaces: line.surfaces,
                    cut: [],
                    told: facts.told ?? [],
                    settings: facts.settings!,
                  },
                },
              })
            }
          >
            Change…
          </button>
          <ReadAgain line={line} facts={facts} />
          <button className="btn" data-take-out onClick={takeOut}>
            Take out
          </button>
        </div>
      )}
      {replaced && <ReplacedTable rows={replaced} />}
      <div className="mt-2 border-t border-rule pt-1 text-[12px]" data-used>
        {!facts ? (
          "…"
        ) : facts.used.length ? (
          facts.used.map((u) => (
            <div key={u.scene}>
              <b>{u.name}</b> <span className="text-soft">{u.where.join(", ")}</span>
            </div>
          ))
        ) : (
          <span className="text-soft">Used in no scene yet.</span>
        )}
      </div>
    </div>
  );
}
