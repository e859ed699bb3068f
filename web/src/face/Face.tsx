import { hintOf, TOOLS } from "../actions/tools";
import { ArrowLeftRight } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { action } from "../actions/commands";
import { onGround, standOne } from "../actions/standing";
import { CabinetSheet } from "../cabinet/CabinetSheet";
import { usePlaceSize } from "../controls/usePlaceSize";
import { MapCanvas } from "../map/MapCanvas";
import { interval } from "../map/frame";
import { useForeignKinds } from "../state/catalogue";
import { engine } from "../state/engine";
import { readPlace } from "../state/place";
import { get, set, usePage } from "../state/store";
import { SurveyKey } from "../survey/SurveyKey";
import { SurveyWash } from "../survey/SurveyWash";
import { TransectStrip } from "../survey/TransectStrip";
import { WhyHere } from "../survey/WhyHere";
import { STRIP_HEIGHT } from "../controls/stripHeight";
import { BrushTools } from "./BrushTools";
import { Collar } from "./Collar";
import { FaceTools } from "./FaceTools";
import { MaskWash } from "./MaskWash";
import { Reference } from "./Reference";
import { Rulers } from "./Rulers";
import { TimeStrip } from "./TimeStrip";
import { TroubleNote } from "./TroubleNote";
import { Waiting } from "./Waiting";
import { Wipe } from "./Wipe";
import { beginView } from "./beginView";
import { InShot } from "./InShot";
import { InsetGrip } from "./InsetGrip";
import { INSET, insetSize, LEFT, TOP } from "./neatLine";

export function Face() {
  const [ref, size] = usePlaceSize();
  const canvas = useRef<HTMLCanvasElement>(null);
  const pad = useRef<HTMLDivElement>(null);
  const [begun, setBegun] = useState(false);
  const mapOnFace = usePage((s) => s.mapOnFace);
  const doc = usePage((s) => s.doc);
  const products = usePage((s) => s.products);
  const span = (products?.manifest.highest ?? 100) - (products?.manifest.lowest ?? 0);
  const tool = usePage((s) => s.tool);
  const clean = usePage((s) => s.clean);
  const pinned = usePage((s) => s.pinned);
  const insetShot = usePage((s) => s.insetShot);
  const chosenShot = doc?.shots.find((s) => s.id === insetShot) ?? null;
  const trouble = usePage((s) => s.trouble);
  const told = usePage((s) => s.told);
  const cutting = usePage((s) => !!s.transect);
  const timed = usePage((s) => !!s.time);
  const inShot = usePage((s) => !!s.stepped);
  const drawing = usePage((s) => s.drawing.length);
  const insetWide = usePage((s) => s.insetWide);
  useForeignKinds();
  const faceWidth = Math.max(2, size.width);
  const faceHeight = Math.max(2, size.height);
  const faceSize = { width: faceWidth, height: faceHeight };
  const inset = insetSize(insetWide, mapOnFace ? null : chosenShot, faceWidth, faceHeight);

  useEffect(() => {
    // a task of its own: the card takes a third of a second to be there
    const timer = setTimeout(() => {
      beginView(canvas.current!, pad.current!);
      setBegun(true);
    }, 0);
    return () => clearTimeout(timer);
  }, []);
  useEffect(() => {
    if (!pinned) engine.view?.ring(0, 0, null);
  }, [pinned]);
  useEffect(() => {
    const v = engine.view;
    if (!v || size.width < 4) return;
    const [w, h] = mapOnFace ? [inset.width, inset.height] : [faceWidth, faceHeight];
    v.inset =
      !mapOnFace && chosenShot
        ? {
            shot: chosenShot as never,
            x: INSET.left,
            y: faceHeight - INSET.bottom - inset.height,
            width: inset.width,
            height: inset.height,
          }
        : null;
    if (canvas.current!.width !== w || canvas.current!.height !== h) v.resize(w, h);
    else v.changed();
  }, [
    size.width,
    faceWidth,
    faceHeight,
    mapOnFace,
    chosenShot,
    clean,
    begun,
    inset.width,
    inset.height,
  ]);

  const swap = (
    <button
      className="icon bg-paper/90!"
      aria-label={action("map").name}
      title={`${action("map").name} (M)`}
      onClick={action("map").run}
    >
      <ArrowLeftRight size={13} />
    </button>
  );
  return (
    <div className="relative min-h-0 border-[1.5px] border-ink bg-paper">
      <Rulers width={faceSize.width} height={faceSize.height} map={mapOnFace} />
      <div
        ref={ref}
        className="absolute overflow-hidden"
        style={{
          left: LEFT,
          top: TOP,
          right: 0,
          bottom: (cutting || timed) && !clean ? STRIP_HEIGHT : 0,
          background: "#b9c0bd",
        }}
      >
        {mapOnFace && (
          <MapCanvas
            width={faceSize.width}
            height={faceSize.height}
            big
            onPlace={onGround}
            onHover={(e, n) => {
              if (!get().pinned) set({ place: readPlace(e, n) });
            }}
          />
        )}
        <div
          className="absolute"
          style={
            mapOnFace
              ? {
                  left: INSET.left,
                  bottom: INSET.bottom,
                  width: inset.width,
                  height: inset.height,
                  boxShadow: "0 0 0 1.5px #23302b, 0 0 0 5.5px #f4efe4",
                }
              : { inset: 0 }
          }
        >
          <canvas ref={canvas} className="block" data-view />
          <Waiting />
          <div
            ref={pad}
            tabIndex={0}
            role="application"
            aria-label="View of the land"
            className={`absolute inset-0 ${tool ? TOOLS[tool].pointer : ""}`}
            style={{ touchAction: "none" }}
            data-pad
            onDragOver={(e) => {
              if (e.dataTransfer.types.includes("sow/kind")) {
                e.preventDefault();
                e.stopPropagation();
                e.dataTransfer.dropEffect = "copy";
                const r = e.currentTarget.getBoundingClientRect();
                const p = engine.view?.pick(
                  (e.clientX - r.left) / r.width,
                  (e.clientY - r.top) / r.height,
                );
                if (p) engine.view?.ring(p.x, p.y, 0.8);
              }
            }}
            onDrop={(e) => {
              const kind = e.dataTransfer.getData("sow/kind");
              if (!kind) return;
              e.preventDefault();
              e.stopPropagation();
              const r = e.currentTarget.getBoundingClientRect();
              const p = engine.view?.pick(
                (e.clientX - r.left) / r.width,
                (e.clientY - r.top) / r.height,
              );
              engine.view?.ring(0, 0, null);
              if (p) standOne(kind, p.x, p.y);
            }}
          />
        </div>
        {!mapOnFace && (
          <InShot width={faceWidth} height={faceHeight} hole={chosenShot ? inset : null} />
        )}
        {!mapOnFace && <Reference width={faceWidth} height={faceHeight} />}
        {!mapOnFace && !clean && (
          <div
            className="pointer-events-none absolute"
            style={{
              left: INSET.left,
              bottom: INSET.bottom,
              width: inset.width,
              height: inset.height,
              boxShadow: "0 0 0 1.5px #23302b, 0 0 0 5.5px #f4efe4",
            }}
          >
            {!chosenShot && (
              <div className="pointer-events-auto">
                <MapCanvas
                  width={inset.width}
                  height={inset.height}
                  big={false}
                  onPlace={onGround}
                />
              </div>
            )}
          </div>
        )}
        {!clean && (
          <div
            className="absolute flex items-center gap-1"
            style={{ left: INSET.left + 4, bottom: INSET.bottom + inset.height - 22 }}
          >
            <span className="bg-paper/90 px-1 text-[11.5px]">
              {mapOnFace
                ? "view"
                : chosenShot
                  ? chosenShot.name
                  : doc
                    ? `map · contours ${interval(span)} m`
                    : "map"}
            </span>
            {swap}
            {chosenShot && !mapOnFace && (
              <button
                className="bg-paper/90 px-1 text-[11.5px] underline"
                onClick={() => set({ insetShot: null })}
              >
                map
              </button>
            )}
          </div>
        )}
        {!clean && <InsetGrip size={inset} most={faceWidth / 2} />}
        {!clean && <FaceTools />}
        {tool && TOOLS[tool].hint && (
          <div
            className={
              "absolute top-3 left-1/2 -translate-x-1/2 border border-ink bg-paper px-3 " + "py-1"
            }
          >
            {hintOf(tool, drawing)} ·{" "}
            <button className="underline" onClick={() => set({ tool: null })}>
              leave
            </button>
          </div>
        )}
        {!clean && (
          <div
            className={
              "pointer-events-none absolute top-3 left-3 flex max-w-[calc(100%-300px)] " +
              "flex-col items-start gap-2 *:pointer-events-auto"
            }
          >
            <BrushTools />
            <SurveyKey />
          </div>
        )}
        {!clean && <WhyHere />}
        {!mapOnFace && !clean && <Collar width={faceSize.width} height={faceSize.height} />}
        <Wipe />
        <CabinetSheet />
        {told && (
          <div
            role="status"
            className={
              `absolute left-1/2 flex -translate-x-1/2 gap-3 border border-ink bg-paper px-3 py-1 ` +
              (inShot ? "bottom-12" : "bottom-3")
            }
          >
            <span>{told}</span>
            <button className="text-soft underline" onClick={() => set({ told: null })}>
              put away
            </button>
          </div>
        )}
        {trouble && <TroubleNote />}
        {doc && !doc.land.length && !mapOnFace && (
          <div
            className={
              "absolute top-14 left-1/2 w-[380px] -translate-x-1/2 border border-ink " +
              "bg-paper/95 px-4 py-3"
            }
          >
            <b className="font-show">Flat ground.</b> Drop a heightmap here (PNG or TIFF), or add
            noise or a broad form under <b>Land</b> in the key.{" "}
            <button className="underline" onClick={action("lands").run}>
              Ready-made lands…
            </button>
          </div>
        )}
      </div>
      <SurveyWash />
      <MaskWash />
      {timed && !clean && <TimeStrip width={faceSize.width + LEFT} />}
      {cutting && !timed && !clean && <TransectStrip width={faceSize.width + LEFT} />}
    </div>
  );
}
