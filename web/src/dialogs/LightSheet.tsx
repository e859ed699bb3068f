import { useEffect, useRef, useState } from "react";
import * as calls from "../api/calls";
import type { LightTry, Scene } from "../api/shapes";
import { SheetBox } from "../controls/SheetBox";
import { edit } from "../state/edits";
import { engine } from "../state/engine";
import { get, set, usePage } from "../state/store";
import { tell } from "../state/trouble";

type Mode = "ready" | "day" | "around" | "panorama";

const MODES: [Mode, string][] = [
  ["ready", "Ready lights"],
  ["day", "Through the day"],
  ["around", "Around this one"],
  ["panorama", "Panoramas"],
];
const WIDE_PX = 330;
const HIGH_PX = 186;

interface Wish {
  mode: Mode;
  spread: number;
  turn: number;
  from: Scene["light"];
}

/** The eye of a shot, or of the view. */
function eyeOf(shots: Scene["shots"], chosen: string) {
  const shot = shots.find((s) => s.id === chosen);
  if (!shot) {
    const { east, north, up, bearing, tilt, focal } = engine.view?.pose ?? get().pose;
    return { east, north, up, bearing, tilt, focal };
  }
  const { east_m, north_m, eye_m, bearing, tilt, focal_mm } = shot;
  return { east: east_m, north: north_m, eye: eye_m, bearing, tilt, focal: focal_mm };
}

/** Twelve lights over the same land from the same eye, in true colours. */
export function LightSheet() {
  const doc = usePage((s) => s.doc!);
  const id = usePage((s) => s.id!);
  const [wish, setWish] = useState<Wish>({ mode: "ready", spread: 0.6, turn: 0, from: doc.light });
  const [shot, setShot] = useState(doc.shots[0]?.id ?? "");
  const [tries, setTries] = useState<LightTry[]>([]);
  const [made, setMade] = useState<string[]>([]);
  const urls = useRef<string[]>([]);
  useEffect(() => {
    const halt = new AbortController();
    setMade([]);
    setTries([]);
    const draw = async () => {
      const { from: light, ...how } = wish;
      const found = await calls.lightTries({ light, ...how }, halt.signal);
      if (halt.signal.aborted) return;
      setTries(found);
      const pose = eyeOf(get().doc!.shots, shot);
      for (const one of found) {
        const document = { ...get().doc!, light: one.values };
        const asked = { document, pose, width_px: WIDE_PX, height_px: HIGH_PX, fine: true };
        const picture = await calls.drawProof(id, asked, halt.signal);
        if (halt.signal.aborted) return;
        const url = URL.createObjectURL(picture);
        urls.current.push(url);
        setMade((all) => [...all, url]);
      }
    };
    draw().catch((e) => !halt.signal.aborted && tell(e));
    return () => halt.abort();
  }, [id, wish, shot]);
  useEffect(() => {
    const made_ = urls.current;
    return () => made_.forEach((u) => URL.revokeObjectURL(u));
  }, []);
  const take = (one: LightTry) => {
    set({ dialog: null });
    void edit(`Light: ${one.label}`, (d) => {
      d.light = one.values as Scene["light"];
    });
  };
  const around = (one: LightTry) =>
    setWish({ ...wish, mode: "around", turn: 0, from: one.values as Scene["light"] });
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
          <select
            className="text"
            aria-label="Seen from"
            value={shot}
            onChange={(e) => setShot(e.target.value)}
          >
            <option value="">the view as it is</option>
            {doc.shots.map((s) => (
              <option key={s.id} value={s.id}>
                {s.name}
              </option>
            ))}
          </select>
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
      <div className="grid grid-cols-4 gap-2" data-tries={made.length}>
        {tries.map((one, i) => (
          <div key={`${one.label} ${i}`} className="border border-rule p-[3px]">
            {made[i] ? (
              <button
                className="block w-full"
                aria-label={`Take ${one.label}`}
                onClick={() => take(one)}
              >
                <img src={made[i]} alt="" className="h-[142px] w-full object-cover" />
              </button>
            ) : (
              <div className="grid h-[142px] place-items-center text-soft">…</div>
            )}
            <div className="flex justify-between text-[11.5px]">
              <span className="truncate">{one.label}</span>
              <button className="underline" onClick={() => around(one)}>
                around
              </button>
            </div>
          </div>
        ))}
      </div>
    </SheetBox>
  );
}
