import { useEffect, useState } from "react";
import { dropFile } from "./actions/bringIn";
import { onKey } from "./actions/keys";
import { Dialogs } from "./dialogs/Dialogs";
import { Face } from "./face/Face";
import { FootLine } from "./face/FootLine";
import { Key } from "./key/Key";
import { TitleBlock } from "./key/TitleBlock";
import { usePage } from "./state/store";

/** Whether a file is held over the page, and what the page does with one that is let go. */
function useDrop() {
  const [over, setOver] = useState(false);
  const handlers = {
    onDragOver: (e: React.DragEvent) => {
      e.preventDefault();
      setOver(true);
    },
    onDragLeave: (e: React.DragEvent) => {
      if (!e.relatedTarget) setOver(false);
    },
    onDrop: (e: React.DragEvent) => {
      e.preventDefault();
      setOver(false);
      for (const f of Array.from(e.dataTransfer.files).slice(0, 1)) void dropFile(f);
    },
  };
  return { over, handlers };
}

/** The whole sheet: the face with its foot line, the margin with the key and the title block. */
export function Sheet() {
  const clean = usePage((s) => s.clean);
  const settled = usePage((s) => s.settled && !s.building);
  const frames = usePage((s) => s.frames);
  const { over, handlers } = useDrop();
  useEffect(() => {
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  return (
    <div
      className={`grid h-full ${clean ? "grid-cols-1 bg-surround" : "grid-cols-[1fr_322px]"}`}
      data-settled={settled}
      data-frames={frames}
      {...handlers}
    >
      <div
        className={
          "grid min-h-0 min-w-0 grid-rows-[1fr_25px] " + `${clean ? "p-8" : "pt-[10px] pl-[10px]"}`
        }
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
          <Key />
          <TitleBlock />
        </div>
      )}
      {over && (
        <div
          className={
            "pointer-events-none fixed inset-3 z-50 grid place-items-center " +
            "border-[3px] border-dashed border-moss bg-paper/70 font-show text-[20px]"
          }
        >
          Let go to bring in the heightmap, mask or scene
        </div>
      )}
      <Dialogs />
    </div>
  );
}
