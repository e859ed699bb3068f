import { useEffect, useState } from "react";
import { PARTS, takePart } from "../actions/parts";
import * as calls from "../api/calls";
import type { PartLine, SceneLine } from "../api/shapes";
import { SheetBox } from "../controls/SheetBox";
import { set, usePage } from "../state/store";
import { tell } from "../state/trouble";

/**
 * Parts of this scene put into the own drawer, and those of the drawer or of another scene used
 * here.
 */
export function PartsDrawer() {
  const [list, setList] = useState<PartLine[]>([]);
  const [scenes, setScenes] = useState<SceneLine[]>([]);
  const [part, setPart] = useState("ground");
  const [name, setName] = useState("");
  const [from, setFrom] = useState(0);
  const [add, setAdd] = useState(false);
  const id = usePage((s) => s.id);
  const doc = usePage((s) => s.doc!);
  const load = () => {
    calls.listParts().then(setList).catch(tell);
    calls
      .listScenes()
      .then((l) => setScenes(l.filter((x) => x.id !== id)))
      .catch(tell);
  };
  useEffect(load, [id]);
  const word = (k: string) => PARTS.find((p) => p[0] === k)?.[1] ?? k;
  return (
    <SheetBox title="Own drawer" wide={560}>
      <p className="mb-2 text-soft">
        A part of a scene, kept here with the marks that it uses, can be laid into any other scene.
      </p>
      <div className="flex items-center gap-1">
        <select
          className="text"
          aria-label="Part"
          value={part}
          onChange={(e) => setPart(e.target.value)}
        >
          {PARTS.map(([k, l]) => (
            <option key={k} value={k}>
              {l}
            </option>
          ))}
        </select>
        <input
          className="text grow"
          placeholder={`${doc.name}: ${word(part)}`}
          aria-label="Name in the drawer"
          value={name}
          maxLength={80}
          onChange={(e) => setName(e.target.value)}
        />
        <button
          className="btn do"
          data-keep-part
          onClick={() =>
            void calls
              .keepPart({
                scene: id,
                part,
                name: name.trim() || `${doc.name}: ${word(part)}`.slice(0, 80),
              })
              .then(() => {
                setName("");
                load();
              })
              .catch(tell)
          }
        >
          Put into the drawer
        </button>
      </div>
      <div className="mt-2 max-h-[34vh] overflow-auto border-y border-rule" data-parts>
        {list.length ? (
          list.map((p) => (
            <div key={p.id} className="flex items-center gap-2 border-b border-rule/60 py-[3px]">
              <span className="min-w-0 grow truncate">
                <b>{p.name}</b> <span className="text-soft">{word(p.part)}</span>
              </span>
              <button
                className="btn"
                data-use={p.id}
                onClick={() => {
                  void takePart(
                    { drawer: p.id, add: add && p.part !== "light" },
                    `${p.name} from the drawer`,
                  );
                  set({ dialog: null });
                }}
              >
                Use here
              </button>
              <button
                className="btn"
                aria-label={`Take ${p.name} out`}
                onClick={() => void calls.deletePart(p.id).then(load).catch(tell)}
              >
                take out
              </button>
            </div>
          ))
        ) : (
          <p className="py-2 text-soft">The drawer is empty.</p>
        )}
      </div>
      <label className="mt-2 flex items-center gap-1">
        <input
          type="checkbox"
          className="accent-moss"
          checked={add}
          onChange={(e) => setAdd(e.target.checked)}
        />
        after what is here, not in its place
      </label>
      <div className="mt-2 flex items-center gap-1 border-t border-rule pt-2">
        From another scene
        <select
          className="text min-w-0 grow"
          aria-label="Scene to take from"
          value={from}
          onChange={(e) => setFrom(+e.target.value)}
        >
          <option value={0}>{scenes.length ? "choose…" : "there is no other"}</option>
          {scenes.map((s) => (
            <option key={s.id} value={s.id}>
              {s.name}
            </option>
          ))}
        </select>
        <button
          className="btn"
          disabled={!from}
          onClick={() => {
            void takePart(
              { scene: from, part, add: add && part !== "light" },
              `${word(part)} of ${scenes.find((s) => s.id === from)?.name}`.slice(0, 120),
            );
            set({ dialog: null });
          }}
        >
          take {word(part)}
        </button>
      </div>
    </SheetBox>
  );
}
