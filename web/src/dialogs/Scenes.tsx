import { useEffect, useRef, useState } from "react";
import { dropFile } from "../actions/bringIn";
import * as calls from "../api/calls";
import type { SceneLine } from "../api/shapes";
import { SheetBox } from "../controls/SheetBox";
import { openScene } from "../state/opening";
import { set, usePage } from "../state/store";
import { tell } from "../state/trouble";

export function Scenes() {
  const [list, setList] = useState<SceneLine[] | null>(null);
  const now = usePage((s) => s.id);
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => {
    calls.listScenes().then(setList).catch(tell);
  }, []);
  return (
    <SheetBox title="Scenes">
      <div className="max-h-[50vh] overflow-auto">
        {list?.map((s) => (
          <button
            key={s.id}
            className={
              "flex w-full justify-between border-b border-rule px-1 py-1 text-left " +
              `hover:bg-paper2 ${s.id === now ? "font-semibold text-moss" : ""}`
            }
            onClick={() => {
              set({ dialog: null });
              void openScene(s.id);
            }}
          >
            <span>{s.name}</span>
            <span className="text-soft">
              {new Date(s.kept).toLocaleString("en-GB", {
                dateStyle: "medium",
                timeStyle: "short",
              })}
            </span>
          </button>
        ))}
      </div>
      <div className="mt-3 flex justify-end gap-2">
        <button className="btn mr-auto" onClick={() => input.current?.click()}>
          From a file…
        </button>
        <input
          ref={input}
          type="file"
          accept=".zip,.json,.glb,.usdz,.usdc,.usda,.usd"
          className="hidden"
          data-scene-file
          onChange={(e) => {
            const f = e.target.files?.[0];
            if (f) {
              set({ dialog: null });
              void dropFile(f);
            }
            e.target.value = "";
          }}
        />
        <button className="btn" onClick={() => set({ dialog: null })}>
          Leave
        </button>
        <button
          className="btn"
          data-duplicate-scene
          disabled={now === null}
          onClick={() =>
            void calls
              .duplicateScene(now!)
              .then((s) => {
                set({ dialog: null });
                return openScene(s.id);
              })
              .catch(tell)
          }
        >
          Duplicate this one
        </button>
        <button className="btn do" onClick={() => set({ dialog: "new" })}>
          New scene…
        </button>
      </div>
    </SheetBox>
  );
}
