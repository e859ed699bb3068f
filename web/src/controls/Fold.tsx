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
        className="flex w-full justify-between text-left font-semibold"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        {title}
        <span className="font-normal text-soft">{open ? "fold" : (note ?? "…")}</span>
      </button>
      {open && children}
    </div>
  );
}
