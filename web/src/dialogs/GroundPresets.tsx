import { useEffect, useState } from "react";
import * as calls from "../api/calls";
import { Trouble } from "../api/client";
import { SheetBox } from "../controls/SheetBox";
import { complete } from "../document/schema";
import { edit } from "../state/edits";
import { engine } from "../state/engine";
import { get, set } from "../state/store";
import { tell } from "../state/trouble";

interface Preset {
  name: string;
  label: string;
  help: string;
}

interface Made {
  preset: Preset;
  materials: Record<string, unknown>[];
  told: string[];
  url: string;
}

/** Ready sets of materials, each drawn on this land from where one stands; its bands are told. */
export function GroundPresets() {
  const [made, setMade] = useState<Made[]>([]);
  const [count, setCount] = useState(9);
  const [above, setAbove] = useState(true);
  useEffect(() => {
    const halt = new AbortController();
    const urls: string[] = [];
    const v = engine.view?.pose;
    const seen =
      above || !v
        ? null
        : {
            east: v.east,
            north: v.north,
            up: v.up,
            bearing: v.bearing,
            tilt: v.tilt,
            focal: v.focal,
          };
    setMade([]);
    void (async () => {
      try {
        const list = await calls.listGroundPresets();
        setCount(list.length);
        for (const preset of list) {
          const { materials, told } = await calls.groundPresetHere(
            get().id!,
            preset.name,
            { document: get().doc },
            halt.signal,
          );
          const bare = { ...get().doc!, ground: materials, planting: [] };
          const url = URL.createObjectURL(
            await calls.drawProof(
              get().id!,
              { document: bare, pose: seen, clothed: true, width_px: 270, height_px: 120 },
              halt.signal,
            ),
          );
          urls.push(url);
          if (halt.signal.aborted) return;
          setMade((m) => [...m, { preset, materials, told, url }]);
        }
      } catch (e) {
        if (!halt.signal.aborted) {
          tell(e);
          if (e instanceof Trouble) set({ dialog: null });
        }
      }
    })();
    return () => {
      halt.abort();
      setTimeout(() => urls.forEach((u) => URL.revokeObjectURL(u)), 1000);
    };
  }, [above]);
  const take = (m: Made) => {
    const schema = get().catalogue!.scene;
    set({ dialog: null, open: "ground" });
    void edit(`Ground: ${m.preset.label}`, (d) => {
      d.ground = m.materials.map((x) =>
        complete(schema, schema.$defs.Material, { on: true, ...x }),
      ) as never;
    });
  };
  return (
    <SheetBox title="Sets of materials, laid on this land" wide={900}>
      <div className="mb-2 flex items-center justify-between gap-3">
        <span className="text-soft">
          Their bands come from this land's own slopes, heights and wetness. Taking one replaces the
          materials; undo brings them back.
        </span>
        <span className="flex">
          <button
            className={`btn ${above ? "" : "on"}`}
            aria-pressed={!above}
            onClick={() => setAbove(false)}
          >
            from here
          </button>
          <button
            className={`btn -ml-px ${above ? "on" : ""}`}
            aria-pressed={above}
            onClick={() => setAbove(true)}
          >
            from above
          </button>
        </span>
      </div>
      <div className="grid grid-cols-3 gap-2" data-presets={made.length}>
        {Array.from({ length: count }, (_, i) => made[i]).map((m, i) => (
          <div key={i} className="border border-rule p-[3px]">
            {m ? (
              <button
                className="block w-full text-left align-top"
                data-preset={m.preset.name}
                onClick={() => take(m)}
              >
                <img src={m.url} alt="" className="h-[112px] w-full object-cover" />
                <b className="font-show">{m.preset.label}</b>{" "}
                <span className="text-soft">{m.preset.help}</span>
                <span className="block text-[11.5px] leading-tight text-soft">
                  {m.told.join("; ")}
                </span>
              </button>
            ) : (
              <div className="grid h-[166px] place-items-center text-soft">…</div>
            )}
          </div>
        ))}
      </div>
    </SheetBox>
  );
}
