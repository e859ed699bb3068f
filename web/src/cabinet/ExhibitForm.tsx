import { useEffect, useState } from "react";
import * as calls from "../api/calls";
import type { Scene, SceneLine } from "../api/shapes";
import { NumberLine } from "../controls/NumberLine";
import { refreshCabinet } from "../state/catalogue";
import { get, set } from "../state/store";
import { tell } from "../state/trouble";

const SIDES = { earth: "earth", rock: "rock" } as const;
const CUTS = { square: "a square", disc: "a disc", area: "an area" } as const;

/** Another scene, or a part of it, cut out as a model that stands in this one. */
export function ExhibitForm() {
  const [list, setList] = useState<SceneLine[]>([]);
  const [scene, setScene] = useState<number | null>(null);
  const [plot, setPlot] = useState<Scene["plot"] | null>(null);
  const [areas, setAreas] = useState<Record<string, string>>({});
  const [area, setArea] = useState("");
  const [cut, setCut] = useState<keyof typeof CUTS>("square");
  const [sides, setSides] = useState<keyof typeof SIDES>("earth");
  const [at, setAt] = useState({ east: 0, north: 0, across: 100, deep: 10, wide: 1.2 });
  const [busy, setBusy] = useState(false);
  useEffect(() => {
    calls
      .listScenes()
      .then((found) => {
        setList(found);
        setScene(found.find((s) => s.id !== get().id)?.id ?? found[0]?.id ?? null);
      })
      .catch(tell);
  }, []);
  useEffect(() => {
    if (scene === null) return;
    calls
      .sceneState(scene)
      .then(({ document }) => {
        const { width_m, depth_m } = (document as Scene).plot;
        setPlot((document as Scene).plot);
        const marked = (document as Scene).marks.filter((m) => m.kind === "area");
        setAreas(Object.fromEntries(marked.map((m) => [m.id, m.name])));
        setArea(marked[0]?.id ?? "");
        const across = Math.min(width_m!, depth_m!);
        setAt((a) => ({
          ...a,
          east: width_m! / 2,
          north: depth_m! / 2,
          across,
          deep: across / 25,
        }));
      })
      .catch(tell);
  }, [scene]);
  const make = async () => {
    setBusy(true);
    try {
      const name = list.find((s) => s.id === scene)?.name ?? "Scene";
      const made = await calls.makeExhibit({
        scene: scene!,
        revision: null,
        label: `Model of ${name}`.slice(0, 60),
        wide_m: at.wide,
        cut: {
          east_m: at.east,
          north_m: at.north,
          side_m: at.across,
          deep_m: at.deep,
          cut,
          area,
          sides,
        },
      });
      await refreshCabinet();
      set({ cabinetAt: { drawer: "own", kind: made.kind.name } });
    } catch (e) {
      tell(e);
    } finally {
      setBusy(false);
    }
  };
  const number = (label: string, key: keyof typeof at) => (
    <NumberLine label={label} value={at[key]} unit="m" onKeep={(v) => setAt({ ...at, [key]: v })} />
  );
  return (
    <div data-exhibit-form>
      <b className="font-show text-[16px]">A scene as a model</b>
      <p className="mb-1 text-[12px] text-soft">
        Cut out as it is kept now, clothed and planted, to stand in another scene.
      </p>
      <select
        className="text w-full"
        aria-label="Scene of the exhibit"
        value={scene ?? ""}
        onChange={(e) => setScene(+e.target.value)}
      >
        {list.map((s) => (
          <option key={s.id} value={s.id}>
            {s.name}
          </option>
        ))}
      </select>
      <Choice label="Cut to" value={cut} of={CUTS} onKeep={setCut} />
      {cut !== "area" ? (
        <>
          {number("Across", "across")}
          {number("Middle, east", "east")}
          {number("Middle, north", "north")}
        </>
      ) : area ? (
        <Choice label="Area" value={area} of={areas} onKeep={setArea} />
      ) : (
        <p className="text-soft">That scene has no area among its marks.</p>
      )}
      <Choice label="Sides of" value={sides} of={SIDES} onKeep={setSides} />
      {number("Sides below", "deep")}
      {number("Stands so wide", "wide")}
      <button
        className="btn do mt-1"
        data-make-exhibit
        disabled={busy || !plot || (cut === "area" && !area)}
        onClick={() => void make()}
      >
        {busy ? "Cutting it out…" : "Cut it out"}
      </button>
    </div>
  );
}

function Choice<T extends string>({
  label,
  value,
  of,
  onKeep,
}: {
  label: string;
  value: T;
  of: Record<T, string>;
  onKeep: (v: T) => void;
}) {
  return (
    <div className="flex items-center justify-between">
      <span>{label}</span>
      <select
        className="text"
        aria-label={label}
        value={value}
        onChange={(e) => onKeep(e.target.value as T)}
      >
        {(Object.keys(of) as T[]).map((key) => (
          <option key={key} value={key}>
            {of[key]}
          </option>
        ))}
      </select>
    </div>
  );
}
