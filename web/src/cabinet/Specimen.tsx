import { useState } from "react";
import type { KindLine } from "../api/shapes";
import * as urls from "../api/urls";
import { set } from "../state/store";
import { FavouriteStar } from "./FavouriteStar";
import { Turning } from "./Turning";

/**
 * One kind on its card; it turns while the pointer is over it, and can be drawn onto the ground.
 */
export function Specimen({
  kind,
  look,
  on,
  number,
  onLift,
}: {
  kind: KindLine;
  look: string;
  on: boolean;
  number: number;
  onLift: (v: boolean) => void;
}) {
  const [turning, setTurning] = useState(false);
  const [grown, setGrown] = useState(false);
  const wears = kind.looks.includes(look) ? look : "summer";
  return (
    <div
      className={
        "relative border bg-[#fffdf7] " +
        `${on ? "border-moss outline outline-1 outline-moss" : "border-rule hover:border-ink"}`
      }
      draggable
      onDragStart={(e) => {
        e.dataTransfer.setData("sow/kind", kind.name);
        e.dataTransfer.effectAllowed = "copy";
        setTimeout(() => onLift(true));
      }}
      onDragEnd={(e) => {
        onLift(false);
        if (e.dataTransfer.dropEffect !== "none") set({ cabinetAt: null });
      }}
    >
      <button
        className="block w-full"
        data-kind={kind.name}
        aria-pressed={on}
        onClick={() =>
          set((s) => ({ cabinetAt: { drawer: s.cabinetAt!.drawer, kind: kind.name } }))
        }
        onPointerEnter={() => setTurning(true)}
        onPointerLeave={() => setTurning(false)}
        title={kind.tags}
      >
        {turning ? (
          <Turning name={kind.name} look={wears} px={96} />
        ) : (
          <span className="relative block h-[96px]">
            {!grown && (
              <i className="absolute inset-0 grid place-items-center text-[11.5px] text-soft">
                growing…
              </i>
            )}
            <img
              src={urls.kindPicture(kind.name, wears)}
              alt=""
              loading="lazy"
              onLoad={() => setGrown(true)}
              className="relative mx-auto h-[96px] w-[96px] object-contain object-bottom"
            />
          </span>
        )}
        <span className="block truncate border-t border-rule/70 px-1 text-left text-[12px]">
          {kind.label}
        </span>
      </button>
      {number > 0 && (
        <span
          className="absolute top-[3px] left-[5px] text-[10.5px] text-soft"
          title="in this scene"
        >
          {number.toLocaleString("en")}
        </span>
      )}
      <FavouriteStar kind={kind} />
    </div>
  );
}
