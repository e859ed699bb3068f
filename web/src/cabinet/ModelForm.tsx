import { useState } from "react";
import * as calls from "../api/calls";
import type { ModelAnswer, OwnKind } from "../api/shapes";
import { NumberField } from "../controls/NumberField";
import { Range } from "../controls/Range";
import { shown } from "../document/numbers";
import { refreshCabinet } from "../state/catalogue";
import { get, set, usePage } from "../state/store";
import { tell } from "../state/trouble";
import { replaceKind } from "./ownModels";
import { SurfaceForm } from "./SurfaceForm";

/**
 * How a model becomes a kind: its name and drawer, upright, size and origin, and what is changed of
 * its surfaces.
 */
export function ModelForm({ model, part }: { model: ModelAnswer; part: number | null }) {
  const families = usePage((s) => s.catalogue!.families);
  const [s, setS] = useState<OwnKind>(model.settings as unknown as OwnKind);
  const [busy, setBusy] = useState(false);
  const change = (v: Partial<OwnKind>) => setS({ ...s, ...v });
  const axis = { x: 0, y: 1, z: 2 }[s.up as "x" | "y" | "z"];
  const tall = s.height_m || (model.size.length ? model.size[axis] * s.scale : 0);
  const make = async () => {
    setBusy(true);
    try {
      const before = get().cabinetAt?.kind;
      const made = await calls.makeKind(model.source, { settings: s, part });
      await refreshCabinet();
      // what was made anew replaces the old one in this scene
      if (part !== null && before) await replaceKind(before, made.kind.name, `${s.label}: changed`);
      set({
        cabinetAt: { drawer: "own", kind: made.kind.name },
        told: made.told.length ? made.told.join(" ") : null,
      });
    } catch (e) {
      tell(e);
    } finally {
      setBusy(false);
    }
  };
  const surface = (i: number, v: object) =>
    change({ surfaces: s.surfaces!.map((x, k) => (k === i ? { ...x, ...v } : x)) });
  return (
    <div data-model-form>
      <b className="font-show text-[16px]">
        {part === null ? "A model becomes a kind" : "Change the kind"}
      </b>
      <p className="text-[12px] text-soft">
        {model.triangles.toLocaleString("en")} triangles{tall ? `, ${shown(tall)} m tall` : ""}
        {model.surfaces.length
          ? `, ${model.surfaces.length} surface${model.surfaces.length > 1 ? "s" : ""}`
          : ""}
      </p>
      {model.told.map((t) => (
        <p key={t} className="text-[12px] text-ochre" data-told>
          {t}
        </p>
      ))}
      <label className="mt-1 flex items-center justify-between gap-2">
        Name
        <input
          className="text w-[150px]"
          aria-label="Name of the kind"
          value={s.label}
          maxLength={60}
          onChange={(e) => change({ label: e.target.value })}
          onKeyDown={(e) => e.stopPropagation()}
        />
      </label>
      <label className="mt-1 flex items-center justify-between gap-2">
        Drawer
        <select
          className="text w-[150px]"
          aria-label="Drawer"
          value={s.family}
          onChange={(e) => change({ family: e.target.value as OwnKind["family"] })}
        >
          {families.map(({ name: f }) => (
            <option key={f}>{f}</option>
          ))}
        </select>
      </label>
      <label className="mt-1 flex items-center justify-between gap-2">
        Tags
        <input
          className="text w-[150px]"
          aria-label="Tags"
          value={s.tags}
          maxLength={120}
          onChange={(e) => change({ tags: e.target.value })}
          onKeyDown={(e) => e.stopPropagation()}
        />
      </label>
      <div className="mt-1 flex items-center justify-between">
        <span>Upright is</span>
        <span className="flex">
          {(["x", "y", "z"] as const).map((a) => (
            <button
              key={a}
              className={`btn -ml-px ${s.up === a ? "on" : ""}`}
              aria-pressed={s.up === a}
              onClick={() => change({ up: a })}
            >
              {a}
            </button>
          ))}
        </span>
      </div>
      <div className="mt-1 flex items-center justify-between">
        <span>One unit is</span>
        <NumberField
          label="One unit in m"
          value={s.scale}
          unit="m"
          onKeep={(v) => change({ scale: Math.max(1e-6, v) })}
        />
      </div>
      <div className="mt-1 flex items-center justify-between">
        <span>Or its height is</span>
        <NumberField
          label="Height in m"
          value={s.height_m}
          unit="m"
          onKeep={(v) => change({ height_m: v })}
        />
      </div>
      <div className="mt-1 flex items-center justify-between">
        <span>Stands</span>
        <span className="flex">
          {(
            [
              ["foot", "on its foot"],
              ["kept", "as in the file"],
            ] as const
          ).map(([o, w]) => (
            <button
              key={o}
              className={`btn -ml-px px-[5px]! ${s.origin === o ? "on" : ""}`}
              aria-pressed={s.origin === o}
              onClick={() => change({ origin: o })}
            >
              {w}
            </button>
          ))}
        </span>
      </div>
      <Range
        label="Triangles at most"
        value={s.most_triangles}
        unit=""
        min={12}
        max={400000}
        low={100}
        high={400000}
        log
        step={1}
        onDrag={(v) => change({ most_triangles: Math.round(v) })}
        onKeep={(v) => change({ most_triangles: Math.round(v) })}
      />
      {s.surfaces!.map((x, i) => (
        <SurfaceForm
          key={i}
          name={model.surfaces[i] ?? `surface ${i + 1}`}
          number={i + 1}
          surface={x}
          onChange={(v) => surface(i, v)}
        />
      ))}
      <div className="mt-3 flex justify-end gap-2">
        <button className="btn" onClick={() => set({ cabinetAt: { drawer: "own", kind: null } })}>
          Leave
        </button>
        <button
          className="btn do"
          data-make-kind
          disabled={busy || !s.label.trim()}
          onClick={() => void make()}
        >
          {busy ? "making levels…" : part === null ? "Make it a kind" : "Make it anew"}
        </button>
      </div>
    </div>
  );
}
