import { useState } from "react";
import * as calls from "../api/calls";
import type { Scene } from "../api/shapes";
import { SheetBox } from "../controls/SheetBox";
import { edit } from "../state/edits";
import { get, set, usePage } from "../state/store";
import { type Try, TryGrid, useTries } from "./TryGrid";
import { ShotChoice } from "../controls/ShotChoice";

type Lit = Try;

type Mode = "ready" | "day" | "around" | "panorama";

const MODES: [Mode, string][] = [
  ["ready", "Ready lights"],
  ["day", "Through the day"],
  ["around", "Around this one"],
  ["panorama", "Panoramas"],
];

interface Wish {
  mode: Mode;
  spread: number;
  turn: number;
  from: Scene["light"];
}

/** Twelve lights over the same land from the same eye, in true colours. */
export function LightSheet() {
  const doc = usePage((s) => s.doc!);
  const [wish, setWish] = useState<Wish>({ mode: "ready", spread: 0.6, turn: 0, from: doc.light });
  const [shot, setShot] = useState(doc.shots[0]?.id ?? "");
  const find = async (signal: AbortSignal): Promise<Lit[]> => {
    const { from: light, ...how } = wish;
    const found = await calls.lightTries({ light, ...how }, signal);
    return found.map((one) => ({
      label: one.label,
      document: { ...get().doc!, light: one.values as Scene["light"] },
    }));
  };
  const { tries, made } = useTries(find, shot, JSON.stringify(wish));
  const take = (one: Lit) => {
    set({ dialog: null });
    void edit(`Light: ${one.label}`, (d) => {
      d.light = one.document.light;
    });
  };
  const around = (one: Lit) =>
    setWish({ ...wish, mode: "around", turn: 0, from: one.document.light });
  return (
    <SheetBox title="Lights compared" wide={1080}>
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <div className="flex gap-1">
          {MODES.map(([mode, label]) => (
            <button
              key={mode}
              className={`btn ${wish.mode === mode ? "on" : ""}`}
              data-mode={mode}
              onClick={() => setWish({ ...wish, mode, turn: 0, from: doc.light })}
            >
              {label}
            </button>
          ))}
        </div>
        <label>
          seen from{" "}
          <ShotChoice
            label="Seen from"
            shots={doc.shots}
            value={shot}
            choose={setShot}
            before={{ "": "the view as it is" }}
          />
        </label>
        {wish.mode === "around" && (
          <>
            <button className="btn" onClick={() => setWish({ ...wish, turn: wish.turn + 1 })}>
              Twelve others
            </button>
            <button
              className="btn"
              onClick={() => setWish({ ...wish, spread: Math.max(0.1, wish.spread * 0.5) })}
            >
              Nearer
            </button>
            <button
              className="btn"
              onClick={() => setWish({ ...wish, spread: Math.min(1, wish.spread * 1.6) })}
            >
              Wider
            </button>
          </>
        )}
        {wish.mode === "day" && (
          <span className="text-soft">
            {doc.light.moment.slice(0, 10)}, {doc.light.latitude}° north, {doc.light.longitude}°
            east
          </span>
        )}
        <span className="text-soft">
          {made.length < tries.length ? `${made.length} of ${tries.length}` : "Take one."}
        </span>
      </div>
      <TryGrid
        tries={tries}
        made={made}
        take={take}
        more={(one) => (
          <button className="underline" onClick={() => around(one)}>
            around
          </button>
        )}
      />
    </SheetBox>
  );
}
