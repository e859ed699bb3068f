import { useEffect, useRef, useState } from "react";
import * as urls from "../api/urls";
import { usePage } from "../state/store";

export function CabinetChoice({
  drawer,
  value,
  label,
  onKeep,
}: {
  drawer: string;
  value: string;
  label: string;
  onKeep: (v: string) => void;
}) {
  const cabinet = usePage((s) => s.cabinet);
  const [open, setOpen] = useState(false);
  const [sought, setSought] = useState("");
  const ref = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!open) return;
    setSought("");
    const away = (e: PointerEvent) => {
      if (!ref.current?.contains(e.target as Node)) setOpen(false);
    };
    window.addEventListener("pointerdown", away);
    return () => window.removeEventListener("pointerdown", away);
  }, [open]);
  const list = { kind: "kinds", ground: "grounds", heightmap: "heightmaps" }[drawer] as
    "kinds" | "grounds" | "heightmaps";
  const items = cabinet?.[list] ?? [];
  const url = (n: string) => urls.drawerPicture(list, n);
  const now = items.find((i) => i.name === value);
  return (
    <div className="relative mt-[5px]" ref={ref}>
      <button
        className="flex w-full items-center gap-2 border border-rule bg-[#fffdf7] pr-2 text-left"
        aria-expanded={open}
        aria-label={`${label}: ${now?.label}`}
        onClick={() => setOpen(!open)}
      >
        {value ? (
          <img
            src={url(value)}
            alt=""
            className={
              "h-[26px] w-[34px] bg-[#e6dfce] " +
              `${drawer === "kind" ? "object-contain" : "object-cover"}`
            }
          />
        ) : (
          <i className="h-[26px]" />
        )}
        <span className="grow">{now?.label ?? (value || `${label}…`)}</span>
        <span className="text-soft">▾</span>
      </button>
      {open && (
        <div className="menu absolute right-0 left-0 grid max-h-[300px]! grid-cols-3 gap-1 p-1!">
          {items.length > 20 && (
            <input
              className="text sticky top-0 z-10 col-span-3"
              autoFocus
              aria-label={`Find a ${drawer}`}
              placeholder={drawer === "kind" ? "find: birch, wet, evergreen, stone…" : "find…"}
              value={sought}
              onChange={(e) => setSought(e.target.value)}
              onKeyDown={(e) => {
                if (e.key === "Escape") setOpen(false);
                e.stopPropagation();
              }}
            />
          )}
          {(items as { name: string; label: string; family?: string; tags?: string }[])
            .filter(
              (i) =>
                !sought ||
                sought
                  .toLowerCase()
                  .split(/\s+/)
                  .every((w) =>
                    `${i.label} ${i.name} ${i.family ?? ""} ${i.tags ?? ""}`
                      .toLowerCase()
                      .includes(w),
                  ),
            )
            .map((i) => (
              <button
                key={i.name}
                className={
                  "flex flex-col items-center border p-[2px] text-[11px] leading-tight " +
                  (i.name === value
                    ? "border-moss bg-paper2"
                    : "border-transparent hover:bg-paper2")
                }
                onClick={() => {
                  setOpen(false);
                  onKeep(i.name);
                }}
              >
                <img
                  src={url(i.name)}
                  alt=""
                  className="h-[54px] w-full bg-[#e6dfce] object-contain"
                />
                {i.label}
              </button>
            ))}
        </div>
      )}
    </div>
  );
}
