import { useEffect, useRef, useState } from "react";
import { PARTS, takePart } from "../actions/parts";
import * as calls from "../api/calls";
import type { PartLine, SceneLine } from "../api/shapes";
import * as urls from "../api/urls";
import { SheetBox } from "../controls/SheetBox";
import { engine } from "../state/engine";
import { set, usePage } from "../state/store";
import { tell } from "../state/trouble";

const PICTURE_PX = 240;

const word = (key: string) => PARTS.find((p) => p[0] === key)?.[1] ?? key;

/** The face as it is now, small, as the base64 of a JPEG; nothing where there is no view. */
const pictureOfFace = () => (engine.view?.thumbnail(PICTURE_PX) ?? "").split(",")[1] ?? "";

/** Puts a part of the open scene into a drawer. */
function KeepPart({ part, onKept }: { part: string; onKept: () => void }) {
  const [name, setName] = useState("");
  const [note, setNote] = useState("");
  const id = usePage((s) => s.id);
  const doc = usePage((s) => s.doc!);
  const usual = `${doc.name}: ${word(part)}`.slice(0, 80);
  const keep = async (drawer: "own" | "shared") => {
    if (id === null) return;
    const order = { scene: id, part, name: name.trim() || usual, note: note.trim(), drawer };
    try {
      await calls.keepPart({ ...order, picture: pictureOfFace() });
      setName("");
      setNote("");
      onKept();
    } catch (e) {
      tell(e);
    }
  };
  return (
    <>
      <div className="mt-1 flex items-center gap-1">
        <input
          className="text w-[220px]"
          placeholder={usual}
          aria-label="Name in the drawer"
          value={name}
          maxLength={80}
          onChange={(e) => setName(e.target.value)}
        />
        <input
          className="text min-w-0 grow"
          placeholder="a note, if one is wanted"
          aria-label="Note in the drawer"
          value={note}
          maxLength={400}
          onChange={(e) => setNote(e.target.value)}
        />
      </div>
      <div className="mt-1 flex items-center gap-1">
        <button className="btn do" data-keep-part onClick={() => void keep("own")}>
          Put into the own drawer
        </button>
        <button className="btn" data-share-part onClick={() => void keep("shared")}>
          into the shared one
        </button>
        <span className="text-soft">with the picture on the face</span>
      </div>
    </>
  );
}

/** One part in a drawer: its picture, what it is, its note and source. */
function PartRow({
  line,
  onUse,
  onGone,
}: {
  line: PartLine;
  onUse: () => void;
  onGone: () => void;
}) {
  const own = line.id > 0;
  const away = () =>
    void (own ? calls.deletePart(line.id) : calls.deleteSharedPart(line.file!))
      .then(onGone)
      .catch(tell);
  return (
    <div
      data-part={own ? line.id : line.file}
      className="flex items-center gap-2 border-b border-rule/60 py-[3px]"
    >
      {line.picture ? (
        <img
          alt=""
          src={`data:image/jpeg;base64,${line.picture}`}
          className="h-[40px] w-[64px] shrink-0 border border-ink object-cover"
        />
      ) : (
        <span className="h-[40px] w-[64px] shrink-0 border border-rule bg-paper2" />
      )}
      <span className="min-w-0 grow leading-tight">
        <span className="block truncate">
          <b>{line.name}</b> <span className="text-soft">{word(line.part)}</span>
        </span>
        <small className="block truncate text-soft" title={line.note}>
          {[line.note, line.source && `from ${line.source}`, own ? "" : "shared"]
            .filter(Boolean)
            .join(" · ")}
        </small>
      </span>
      <button className="btn do" data-use={own ? line.id : line.file} onClick={onUse}>
        Use here
      </button>
      {own && (
        <a className="btn" href={urls.partFile(line.id)} download title="As a file, for others">
          as a file
        </a>
      )}
      <button className="btn" aria-label={`Take ${line.name} out`} onClick={away}>
        take out
      </button>
    </div>
  );
}

/** The same part straight out of another scene. */
function FromScene({ part, add }: { part: string; add: boolean }) {
  const [scenes, setScenes] = useState<SceneLine[]>([]);
  const [from, setFrom] = useState(0);
  const id = usePage((s) => s.id);
  useEffect(() => {
    calls
      .listScenes()
      .then((l) => setScenes(l.filter((x) => x.id !== id)))
      .catch(tell);
  }, [id]);
  const take = () => {
    const label = `${word(part)} of ${scenes.find((s) => s.id === from)?.name}`;
    void takePart({ scene: from, part, add }, label.slice(0, 120));
    set({ dialog: null });
  };
  return (
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
      <button className="btn" disabled={!from} onClick={take}>
        take {word(part)}
      </button>
    </div>
  );
}

/**
 * Parts of this scene put into the own or the shared drawer, and those of the drawers, of a file or
 * of another scene used here.
 */
export function PartsDrawer() {
  const [list, setList] = useState<PartLine[]>([]);
  const [part, setPart] = useState("ground");
  const [add, setAdd] = useState(false);
  const file = useRef<HTMLInputElement>(null);
  const load = () => void calls.listParts().then(setList).catch(tell);
  useEffect(load, []);
  const addsTo = (key: string) => add && key !== "light";
  const use = (line: PartLine) => {
    const source = line.id ? { drawer: line.id } : { file: line.file };
    void takePart({ ...source, add: addsTo(line.part) }, `${line.name} from the drawer`);
    set({ dialog: null });
  };
  return (
    <SheetBox title="Drawers of parts" wide={640}>
      <div className="flex items-center gap-2">
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
        <span className="text-soft">
          of this scene, kept with the marks that it uses, for any other scene
        </span>
      </div>
      <KeepPart part={part} onKept={load} />
      <div className="mt-2 max-h-[38vh] overflow-auto border-y border-rule" data-parts>
        {list.length ? (
          list.map((line) => (
            <PartRow key={line.id || line.file} line={line} onUse={() => use(line)} onGone={load} />
          ))
        ) : (
          <p className="py-2 text-soft">The drawers are empty.</p>
        )}
      </div>
      <div className="mt-2 flex items-center justify-between">
        <label className="flex items-center gap-1">
          <input
            type="checkbox"
            className="accent-moss"
            checked={add}
            onChange={(e) => setAdd(e.target.checked)}
          />
          after what is here, not in its place
        </label>
        <button className="btn" onClick={() => file.current?.click()}>
          Part from a file…
        </button>
        <input
          ref={file}
          type="file"
          accept=".zip"
          hidden
          aria-label="A part's file"
          onChange={(e) => {
            const chosen = e.target.files?.[0];
            if (chosen) calls.readPartFile(chosen).then(load).catch(tell);
            e.target.value = "";
          }}
        />
      </div>
      <FromScene part={part} add={addsTo(part)} />
    </SheetBox>
  );
}
