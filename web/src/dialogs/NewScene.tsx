import { useState } from "react";
import * as calls from "../api/calls";
import { SheetBox } from "../controls/SheetBox";
import { openScene } from "../state/opening";
import { set } from "../state/store";
import { tell } from "../state/trouble";
import { PlotFields } from "./PlotFields";

/** Sets out the plot of a new scene. */
export function NewScene() {
  const [name, setName] = useState("New scene");
  const [plot, setPlot] = useState({ width_m: 800, depth_m: 800, posts: 1025 });
  const [rolling, setRolling] = useState(true);
  const make = async () => {
    try {
      const seeded = { ...plot, seed: Math.floor(Math.random() * 1e6) };
      const asked = { name: name.trim() || "New scene", plot: seeded, rolling };
      const made = await calls.newScene({ document: await calls.newDocument(asked) });
      set({ dialog: null, open: "land" });
      await openScene(made.id);
    } catch (e) {
      tell(e);
    }
  };
  return (
    <SheetBox title="A new scene">
      <label className="flex items-center justify-between gap-2">
        Name
        <input
          className="text w-56"
          value={name}
          maxLength={80}
          autoFocus
          onFocus={(e) => e.target.select()}
          onChange={(e) => setName(e.target.value)}
          onKeyDown={(e) => e.key === "Enter" && void make()}
        />
      </label>
      <PlotFields plot={plot} onChange={setPlot} />
      <label className="mt-2 flex items-center gap-2">
        <input
          type="checkbox"
          className="accent-moss"
          checked={rolling}
          onChange={(e) => setRolling(e.target.checked)}
        />
        Begin with rolling ground, turf and rock
      </label>
      <div className="mt-3 flex justify-end gap-2">
        <button className="btn mr-auto" data-ready-lands onClick={() => set({ dialog: "lands" })}>
          Ready-made lands…
        </button>
        <button className="btn" onClick={() => set({ dialog: null })}>
          Leave
        </button>
        <button className="btn do" data-make onClick={() => void make()}>
          Make the scene
        </button>
      </div>
    </SheetBox>
  );
}
