import { useEffect, useState } from "react";
import { shotOfView } from "../actions/camera";
import * as calls from "../api/calls";
import type { Scene, Shot, StillChoices, StillForecast, StillOrder } from "../api/shapes";
import { SheetBox } from "../controls/SheetBox";
import { lasting } from "../document/numbers";
import { heardStill } from "../state/stills";
import { get, set, usePage } from "../state/store";
import { tell } from "../state/trouble";
import { clipOfStrip, ClipFields, FIRST } from "./ClipFields";
import { Pixels } from "./Pixels";
import { RegionPick } from "./RegionPick";
import { ShotChoice } from "../controls/ShotChoice";

const ALL = "all";
const LEAST_PX = 16;
const TYPED_MS = 120; // a number that is being typed is not asked about digit by digit
const PROJECTIONS: Record<string, string> = {
  flat: "flat, as through a lens",
  curved: "curved (fisheye)",
  panorama: "full panorama, 2 : 1",
  cube: "cube of six views",
};
const NAMES: Record<string, string> = {
  sides: "east, west, north …",
  body: "right, left, front …",
  axes: "px, nx, py …",
};

type Quality = StillOrder["quality"];
type Projection = StillOrder["projection"];

/** What a still is ordered with, and what it will take. */
export function Still() {
  const doc = usePage((s) => s.doc) as Scene;
  const chosen = usePage((s) => s.chosen);
  const [choices, setChoices] = useState<StillChoices | null>(null);
  const [shot, setShot] = useState(
    doc.shots.find((s) => s.id === chosen)?.id ?? get().stepped?.shot ?? "",
  );
  const picked = doc.shots.find((s) => s.id === shot);
  const [order, setOrder] = useState<StillOrder>({
    width_px: picked?.width_px ?? 1920,
    height_px: picked?.height_px ?? 1080,
    quality: "good",
    projection: "flat",
    angle: 180,
    bits: 8,
    jpeg: false,
    names: "sides",
    layers: false,
    region: null,
    clip: null,
    ...(get().time ? { ...FIRST, clip: clipOfStrip() } : {}),
  });
  const [forecast, setForecast] = useState<StillForecast | null>(null);
  const change = (values: Partial<StillOrder>) => setOrder({ ...order, ...values });
  useEffect(() => {
    calls.stillChoices().then(setChoices).catch(tell);
  }, []);
  useEffect(() => {
    const halt = new AbortController();
    if (Math.min(order.width_px ?? LEAST_PX, order.height_px ?? LEAST_PX) < LEAST_PX) {
      setForecast(null);
      return;
    }
    const later = setTimeout(() => {
      calls
        .stillForecast(order, halt.signal)
        .then(setForecast)
        .catch(() => !halt.signal.aborted && setForecast(null));
    }, TYPED_MS);
    return () => {
      clearTimeout(later);
      halt.abort();
    };
  }, [order]);
  const take = async () => {
    const shots =
      shot === ALL
        ? doc.shots.filter((s) => s.on)
        : [picked ?? shotOfView("view", "View as it is")];
    set({ dialog: null, open: "shots" });
    try {
      for (const one of shots)
        heardStill(await calls.newStill(get().id!, { shot: one as Shot, order, document: null }));
    } catch (e) {
      tell(e);
    }
  };
  return (
    <SheetBox title={order.clip ? "Take a moving picture" : "Take a still"} wide={470}>
      {choices?.lacking ? <p className="mb-2 text-rust">{choices.lacking}</p> : null}
      <div className="grid grid-cols-[92px_1fr] items-baseline gap-y-2">
        <span>From</span>
        <ShotChoice
          label="From"
          shots={doc.shots}
          value={shot}
          choose={(id) => {
            setShot(id);
            const s = doc.shots.find((x) => x.id === id);
            if (s) change({ width_px: s.width_px!, height_px: s.height_px! });
          }}
          before={{ "": "the view as it is" }}
          after={doc.shots.length > 1 ? { [ALL]: "every shot, one after another" } : {}}
        />
        <span>Laid out</span>
        <select
          className="text"
          aria-label="Laid out"
          value={order.projection}
          onChange={(e) => change({ projection: e.target.value as Projection })}
        >
          {(choices?.projections ?? ["flat"]).map((p) => (
            <option key={p} value={p}>
              {PROJECTIONS[p] ?? p}
            </option>
          ))}
        </select>
        <Size order={order} change={change} sizes={choices?.sizes ?? {}} />
        {order.projection === "flat" && !order.clip && (
          <>
            <span>Part</span>
            <RegionPick
              aspect={(order.height_px ?? 1080) / (order.width_px ?? 1920)}
              region={order.region ?? null}
              keep={(region) => change({ region })}
            />
          </>
        )}
        {order.projection === "curved" && (
          <>
            <span>Angle</span>
            <span>
              <Pixels
                label="Angle in degrees"
                value={order.angle ?? 180}
                least={60}
                most={360}
                keep={(angle) => change({ angle })}
              />{" "}
              °
            </span>
          </>
        )}
        {order.projection === "cube" && (
          <>
            <span>Named</span>
            <select
              className="text"
              aria-label="Names of the faces"
              value={order.names}
              onChange={(e) => change({ names: e.target.value })}
            >
              {Object.keys(choices?.names ?? { sides: {} }).map((n) => (
                <option key={n} value={n}>
                  {NAMES[n] ?? n}
                </option>
              ))}
            </select>
          </>
        )}
        <ClipFields order={order} change={change} />
        <span>Quality</span>
        <div className="flex flex-col gap-[2px]">
          {Object.entries(choices?.qualities ?? {}).map(([name, words]) => (
            <label key={name} className="flex items-baseline gap-2">
              <input
                type="radio"
                name="quality"
                value={name}
                checked={order.quality === name}
                onChange={() => change({ quality: name as Quality })}
              />
              <b className="w-[38px] font-semibold">{name}</b>
              <span className="text-soft">{words}</span>
            </label>
          ))}
        </div>
        <span>Files</span>
        <div className="flex items-baseline gap-3">
          <label className="flex items-baseline gap-1">
            PNG of
            <select
              className="text"
              aria-label="Bits of the PNG"
              value={order.bits}
              onChange={(e) => change({ bits: +e.target.value as 8 | 16 })}
            >
              <option value={8}>8 bits</option>
              <option value={16}>16 bits</option>
            </select>
          </label>
          {!order.clip && (
            <label className="flex items-baseline gap-1">
              <input
                type="checkbox"
                checked={order.jpeg}
                onChange={(e) => change({ jpeg: e.target.checked })}
              />
              JPEG too
            </label>
          )}
          {!order.clip && (
            <label
              className="flex items-baseline gap-1"
              title="Colour, albedo, normal, place, and the share of each sowing, kind and material"
            >
              <input
                type="checkbox"
                checked={order.layers}
                onChange={(e) => change({ layers: e.target.checked })}
              />
              all layers in the EXR
            </label>
          )}
        </div>
      </div>
      <p className="mt-2 border-t border-rule pt-1 text-soft" data-forecast>
        {forecast
          ? `${forecast.width_px} × ${forecast.height_px} px, ${forecast.passes} passes: about ` +
            `${lasting(forecast.seconds)}` +
            (order.clip ? ` for ${forecast.frames} frames.` : " for each.") +
            " It goes on when the page is closed."
          : "This size is not possible."}
      </p>
      <div className="mt-2 flex justify-end gap-2">
        <button className="btn" onClick={() => set({ dialog: null })}>
          Leave
        </button>
        <button
          className="btn do"
          data-still
          disabled={!forecast || !!choices?.lacking}
          onClick={() => void take()}
        >
          {order.clip ? "Take it" : "Take still"}
        </button>
      </div>
    </SheetBox>
  );
}

function Size({
  order,
  change,
  sizes,
}: {
  order: StillOrder;
  change: (values: Partial<StillOrder>) => void;
  sizes: StillChoices["sizes"];
}) {
  const square = order.projection === "cube" || order.projection === "curved";
  return (
    <>
      <span>Size</span>
      <div>
        <Pixels
          label="Still width in px"
          value={order.width_px ?? 1920}
          least={16}
          most={16384}
          keep={(width_px) => change(square ? { width_px, height_px: width_px } : { width_px })}
        />
        {order.projection === "flat" ? (
          <>
            {" × "}
            <Pixels
              label="Still height in px"
              value={order.height_px ?? 1080}
              least={16}
              most={16384}
              keep={(height_px) => change({ height_px })}
            />
          </>
        ) : null}{" "}
        px{square ? " a side" : order.projection === "panorama" ? " across" : ""}
        {order.projection === "flat" && (
          <div className="mt-1 flex flex-wrap gap-1">
            {Object.entries(sizes).map(([name, [width, height]]) => (
              <button
                key={name}
                className={`btn ${
                  order.width_px === width && order.height_px === height ? "on" : ""
                }`}
                onClick={() => change({ width_px: width, height_px: height })}
              >
                {name}
              </button>
            ))}
          </div>
        )}
      </div>
    </>
  );
}
