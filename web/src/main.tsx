import { Component, useEffect, useState } from "react";
import { createRoot } from "react-dom/client";
import { onKey } from "./actions/actions";
import { ask, type Cabinet, type SceneLine, type SheetLine } from "./api/client";
import { FootLine, TitleBlock } from "./panels/block";
import { Dialogs } from "./panels/dialogs";
import { dropFile } from "./panels/drop";
import { Face } from "./panels/face";
import { Margin } from "./panels/margin";
import { engine, get, openScene, set, tell, usePage } from "./state";
import "./style.css";

function Sheet() {
  const clean = usePage((s) => s.clean);
  const settled = usePage((s) => s.settled && !s.building);
  const frames = usePage((s) => s.frames);
  const [over, setOver] = useState(false);
  useEffect(() => {
    void (async () => {
      try {
        const [cabinet, schema] = await Promise.all([
          ask<Cabinet>("GET", "/api/cabinet"),
          ask<{ scene: object; stages: Record<string, string>; sheets: SheetLine[] }>(
            "GET",
            "/api/schema",
          ),
        ]);
        set({ cabinet, schema, stages: schema.stages, sheets: schema.sheets });
        engine.view?.setCabinet(cabinet);
        const wanted = Number(new URLSearchParams(location.search).get("scene"));
        const scenes = await ask<SceneLine[]>("GET", "/api/scenes");
        const first = scenes.find((s) => s.id === wanted) ?? scenes[0];
        if (get().id !== null) return; // a scene was made or opened meanwhile
        if (first) await openScene(first.id);
        else set({ dialog: "new" });
      } catch (e) {
        tell(e);
      }
    })();
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  return (
    <div
      className={`grid h-full ${clean ? "grid-cols-1 bg-surround" : "grid-cols-[1fr_322px]"}`}
      data-settled={settled}
      data-frames={frames}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={(e) => {
        if (!e.relatedTarget) setOver(false);
      }}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        for (const f of Array.from(e.dataTransfer.files).slice(0, 1)) void dropFile(f);
      }}
    >
      <div
        className={`grid min-h-0 min-w-0 grid-rows-[1fr_25px] ${clean ? "p-8" : "pt-[10px] pl-[10px]"}`}
      >
        <Face />
        {clean ? (
          <div className="pt-1 text-[12px] text-paper">Escape brings the key back</div>
        ) : (
          <FootLine />
        )}
      </div>
      {!clean && (
        <div className="flex min-h-0 min-w-0 flex-col py-[10px] pr-[8px] pl-[14px]">
          <h1 className="mb-[7px] font-show text-[26px] leading-none font-semibold italic">Sow</h1>
          <Margin />
          <TitleBlock />
        </div>
      )}
      {over && (
        <div className="pointer-events-none fixed inset-3 z-50 grid place-items-center border-[3px] border-dashed border-moss bg-paper/70 font-show text-[20px]">
          Let go to bring in the heightmap, mask or scene
        </div>
      )}
      <Dialogs />
    </div>
  );
}

/** A fault of the page itself never leaves it blank: the work is in the store. */
class Guard extends Component<{ children: React.ReactNode }, { fault: Error | null }> {
  state = { fault: null as Error | null };
  static getDerivedStateFromError(fault: Error) {
    return { fault };
  }
  render() {
    if (!this.state.fault) return this.props.children;
    return (
      <div className="sheetbox w-[420px]" role="alert">
        <h2 className="font-show text-[18px] italic">The page has a fault</h2>
        <p className="my-2">{this.state.fault.message}</p>
        <p>Everything marked as kept is in the store.</p>
        <button className="btn do mt-3" onClick={() => location.reload()}>
          Reload
        </button>
      </div>
    );
  }
}

createRoot(document.getElementById("root")!).render(
  <Guard>
    <Sheet />
  </Guard>,
);
