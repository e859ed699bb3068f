import { useRef } from "react";
import * as calls from "../api/calls";
import { set } from "../state/store";
import { tell } from "../state/trouble";

/** Files become a model, which the form at the right makes a kind. */
async function bringModel(files: File[]) {
  if (!files.length) return;
  try {
    const model = await calls.readModel(files);
    set({ cabinetAt: { drawer: "own", kind: null, model } });
  } catch (e) {
    tell(e);
  }
}

export function BringIn() {
  const input = useRef<HTMLInputElement>(null);
  return (
    <div
      className="mt-3 border-t border-rule pt-2"
      onDragOver={(e) => e.preventDefault()}
      onDrop={(e) => {
        e.preventDefault();
        e.stopPropagation();
        void bringModel([...e.dataTransfer.files]);
      }}
    >
      <button className="btn" data-bring-model onClick={() => input.current?.click()}>
        Bring in a model…
      </button>
      <p className="mt-1 text-[11.5px] text-soft">.glb, or .obj with its .mtl and pictures</p>
      <button
        className="btn mt-1"
        data-exhibit
        onClick={() => set({ cabinetAt: { drawer: "own", kind: null, exhibit: true } })}
      >
        A scene as a model…
      </button>
      <input
        ref={input}
        type="file"
        multiple
        accept=".glb,.obj,.mtl,.png,.jpg,.jpeg"
        className="hidden"
        data-model-files
        onChange={(e) => {
          void bringModel([...(e.target.files ?? [])]);
          e.target.value = "";
        }}
      />
    </div>
  );
}
