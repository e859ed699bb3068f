import { useEffect, useState } from "react";
import * as calls from "../api/calls";
import { Trouble } from "../api/client";
import { Follows, useFollows } from "../controls/Follows";
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
  const [follows, setFollows] = useFollows();
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
    const laid: Made[] = [];
    const drawn = async (materials: Made["materials"], followed: boolean) => {
      const document = { ...get().doc!, ground: materials, planting: [] };
      const size = { width_px: 270, height_px: 120 };
      const asked = { document, pose: seen, clothed: true, followed, ...size };
      const url = URL.createObjectURL(await calls.drawProof(get().id!, asked, halt.signal));
      urls.push(url);
      return url;
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
          const url = await drawn(materials, false);
          if (halt.signal.aborted) return;
          laid.push({ preset, materials, told, url });
          setMade([...laid]);
        }
        for (const m of follows && seen ? laid : []) {
          const url = await drawn(m.materials, true);
          if (halt.signal.aborted) return;
          setMade((now) => now.map((x) => (x.preset === m.preset ? { ...x, url } : x)));
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
  }, [above, follows]);
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
        <Follows follows={follows} onFollows={setFollows} able={!above} />
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
