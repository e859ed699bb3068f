import { SECTIONS } from "../document/sections";
import { usePage } from "../state/store";
import { SectionHead } from "./SectionHead";
import { SECTION_ROWS } from "./sections";

/** The key: headed sections in the order of the work, each a numbered legend. */
export function Key() {
  const there = usePage((s) => !!s.doc);
  return (
    <div className="margin-scroll min-h-0 flex-1 overflow-x-hidden overflow-y-auto pr-[6px]">
      {there &&
        SECTIONS.map(([section, title]) => {
          const { figure: Figure, body: Body } = SECTION_ROWS[section];
          return (
            <SectionHead key={section} section={section} title={title} figure={<Figure />}>
              <Body />
            </SectionHead>
          );
        })}
      {there && <div className="border-t border-ink" />}
    </div>
  );
}
