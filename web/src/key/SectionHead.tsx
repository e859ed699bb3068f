import { useLayoutEffect, useRef } from "react";
import type { Section } from "../document/sections";
import { set, usePage } from "../state/store";

export function SectionHead({
  section,
  title,
  figure,
  children,
}: {
  section: Section;
  title: string;
  figure: React.ReactNode;
  children: React.ReactNode;
}) {
  const open = usePage((s) => s.open === section);
  const ref = useRef<HTMLElement>(null);
  useLayoutEffect(() => {
    if (open) ref.current?.scrollIntoView({ block: "nearest" });
  }, [open]);
  return (
    <section
      ref={ref}
      data-section={section}
      className={open ? "border-t-2 border-moss" : "border-t border-ink"}
    >
      <button
        className={
          "flex w-full items-baseline justify-between gap-3 bg-paper py-[5px] " +
          `text-left ${open ? "sticky top-0 z-10" : ""}`
        }
        aria-expanded={open}
        onClick={() => set({ open: open ? null : section })}
      >
        <h2
          className={
            "font-show text-[14.5px] leading-tight font-semibold " + `${open ? "text-moss" : ""}`
          }
        >
          {title}
        </h2>
        <span className="truncate text-[12px] text-soft">{figure}</span>
      </button>
      {open && <div className="pb-2">{children}</div>}
    </section>
  );
}
