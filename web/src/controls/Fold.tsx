import { useState } from "react";

export function Fold({
  title,
  note,
  children,
}: {
  title: string;
  note?: string;
  children: React.ReactNode;
}) {
  const [open, setOpen] = useState(false);
  return (
    <div className="mt-1 border-t border-rule/70 pt-[2px]">
      <button
        className="flex w-full justify-between gap-2 text-left font-semibold"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        <span className="shrink-0">{title}</span>
        <span className="line-clamp-2 min-w-0 text-right font-normal text-soft" title={note}>
          {open ? "fold" : (note ?? "…")}
        </span>
      </button>
      {open && children}
    </div>
  );
}
