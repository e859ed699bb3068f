import { Trash2 } from "lucide-react";
import { useEffect, useState } from "react";
import { doWork } from "../actions/work";
import * as calls from "../api/calls";
import { Trouble } from "../api/client";
import type { KeptMix, MixAnswer, Part, PresetLine } from "../api/shapes";
import * as urls from "../api/urls";
import { SheetBox } from "../controls/SheetBox";
import { get, set } from "../state/store";
import { tell } from "../state/trouble";

/** Ready mixes, each with its kinds and the number that it brings to this land. */
export function ReadyMixes() {
  const [list, setList] = useState<PresetLine[]>([]);
  const [made, setMade] = useState<Record<string, MixAnswer>>({});
  const [kept, setKept] = useState<KeptMix[]>([]);
  useEffect(() => {
    calls.listKeptMixes().then(setKept).catch(tell);
  }, []);
  useEffect(() => {
    const halt = new AbortController();
    void (async () => {
      try {
        const all = await calls.listMixes();
        setList(all);
        for (const m of all) {
          const answer = await calls.mixHere(
            get().id!,
            m.name,
            { document: get().doc },
            halt.signal,
          );
          if (halt.signal.aborted) return;
          setMade((now) => ({ ...now, [m.name]: answer }));
        }
      } catch (e) {
        if (!halt.signal.aborted) {
          tell(e);
          if (e instanceof Trouble) set({ dialog: null });
        }
      }
    })();
    return () => halt.abort();
  }, []);
  const take = async (label: string, mix: object) => {
    const done = await doWork("take a mix", { mix: { format: "sow-mix-1", ...mix }, label });
    if (done) set({ dialog: null, open: "planting" });
  };
  const fromFile = async (file: File) => {
    try {
      const mix = JSON.parse(await file.text()) as { name?: string };
      const done = await doWork("take a mix", { mix, label: mix.name ?? file.name });
      if (done) set({ dialog: null, open: "planting" });
    } catch {
      tell(new Error(`“${file.name}” is not a planting mix: it is no JSON. Nothing was changed.`));
    }
  };
  return (
    <SheetBox title="Planting mixes for this land" wide={900}>
      <div className="mb-2 flex items-center justify-between gap-3">
        <span className="text-soft">
          Their bands come from this land's own slopes, heights and wetness. Taking one adds its
          sowings as a group; each may be changed afterwards.
        </span>
        <label className="btn cursor-pointer whitespace-nowrap">
          From a file…
          <input
            type="file"
            accept=".json"
            className="hidden"
            aria-label="Planting mix from a file"
            onChange={(e) => {
              const f = e.target.files?.[0];
              if (f) void fromFile(f);
              e.target.value = "";
            }}
          />
        </label>
      </div>
      {kept.length > 0 && (
        <div className="mb-2 flex flex-wrap gap-1" data-kept-mixes={kept.length}>
          {kept.map((m) => (
            <span
              key={m.drawer + m.id}
              className="inline-flex items-center border border-rule bg-[#fffdf7]"
            >
              <button
                className="px-2 py-[2px] hover:bg-paper2"
                data-kept-mix={m.name}
                onClick={() =>
                  take(m.name, { sowings: m.sowings, marks: m.marks, told: [], plants: [] })
                }
              >
                <b>{m.name}</b>{" "}
                <span className="text-soft">
                  {m.drawer} drawer, {m.sowings.length} sowing{m.sowings.length > 1 ? "s" : ""}
                </span>
              </button>
              <button
                className="icon"
                aria-label={`Take ${m.name} out of the ${m.drawer} drawer`}
                onClick={() =>
                  void calls
                    .deleteMix(m.drawer, m.id)
                    .then(() => setKept((k) => k.filter((x) => x !== m)))
                    .catch(tell)
                }
              >
                <Trash2 size={12} />
              </button>
            </span>
          ))}
        </div>
      )}
      <div className="grid grid-cols-3 gap-2" data-mixes={Object.keys(made).length}>
        {list.map((m) => {
          const a = made[m.name];
          const kinds = [
            ...new Set((a?.sowings ?? []).flatMap((s) => (s.mix as Part[]).map((p) => p.kind))),
          ].slice(0, 7);
          return (
            <button
              key={m.name}
              className="block border border-rule p-2 text-left hover:bg-paper2"
              data-take-mix={m.name}
              disabled={!a}
              onClick={() => a && take(m.label, a)}
            >
              <div className="mb-1 flex h-[58px] items-end gap-1 bg-[#e6dfce] px-1">
                {kinds.map((k) => (
                  <img
                    key={k}
                    src={urls.kindPicture(k)}
                    alt=""
                    className="max-h-[54px] min-w-0 flex-1 object-contain object-bottom"
                  />
                ))}
              </div>
              <b className="font-show">{m.label}</b> <span className="text-soft">{m.help}</span>
              <span className="block truncate text-[11.5px] text-soft" title={a?.told.join("; ")}>
                {a
                  ? `${a.plants.reduce((x, y) => x + y, 0).toLocaleString("en")} plants` +
                    `${a.told.length ? `; ${a.told[0]}` : ""}`
                  : "measuring…"}
              </span>
            </button>
          );
        })}
      </div>
    </SheetBox>
  );
}
