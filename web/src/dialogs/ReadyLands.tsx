import { useEffect, useState } from "react";
import { doWork } from "../actions/work";
import * as calls from "../api/calls";
import type { LandLine } from "../api/shapes";
import * as urls from "../api/urls";
import { SheetBox } from "../controls/SheetBox";
import { shown } from "../document/numbers";
import { openScene } from "../state/opening";
import { get, set } from "../state/store";
import { tell } from "../state/trouble";

export function ReadyLands() {
  const [list, setList] = useState<LandLine[] | null>(null);
  useEffect(() => {
    calls.listLands().then(setList).catch(tell);
  }, []);
  const begin = async (name: string) => {
    try {
      const document = await calls.landDocument(name);
      const made = await calls.newScene({ document });
      set({ dialog: null, open: "land" });
      await openScene(made.id);
    } catch (e) {
      tell(e);
    }
  };
  /** The land's entries join this scene's, sized to its plot, as one group. */
  const bring = async (name: string) => {
    const done = await doWork("bring a ready land", { land: name });
    if (done) set({ dialog: null, open: "land" });
  };
  return (
    <SheetBox title="Ready-made lands" wide={760}>
      <div className="grid max-h-[66vh] grid-cols-4 gap-3 overflow-auto">
        {list?.map((l) => (
          <div key={l.name} className="border border-rule bg-[#fffdf7] p-1">
            <img
              src={urls.landPicture(l.name)}
              alt=""
              className="aspect-[4/3] w-full bg-[#e6dfce] object-cover"
            />
            <div className="leading-tight font-semibold">{l.label}</div>
            <div className="h-[30px] text-[11.5px] leading-tight text-soft">{l.note}</div>
            <div className="text-[11px] text-soft">
              {shown(l.width_m / 1000)} km, relief {shown(l.relief_m)} m
            </div>
            <div className="mt-1 flex gap-1">
              <button className="btn do" data-land={l.name} onClick={() => void begin(l.name)}>
                New scene
              </button>
              {get().doc && (
                <button className="btn" onClick={() => void bring(l.name)}>
                  Add here
                </button>
              )}
            </div>
          </div>
        ))}
      </div>
    </SheetBox>
  );
}
