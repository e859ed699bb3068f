import { usePage } from "../state/store";
import { SurveyChoice } from "../survey/SurveyChoice";
import { EntryList } from "./EntryList";
import { SectionHead } from "./SectionHead";
import { Cover, HandFigure, PlantCount, Relief, SunFigure, Wet } from "./figures";
import { HandOverPanel } from "./handover/HandOverPanel";
import { BeyondPanel } from "./land/BeyondPanel";
import { LightPanel } from "./light/LightPanel";
import { Pieces } from "./planting/Pieces";
import { SeasonLine } from "./planting/SeasonLine";
import { Thinning } from "./planting/Thinning";

export function Key() {
  const doc = usePage((s) => s.doc);
  return (
    <div className="margin-scroll min-h-0 flex-1 overflow-x-hidden overflow-y-auto pr-[6px]">
      {doc && (
        <>
          <SectionHead section="land" title="Land" figure={<Relief />}>
            <EntryList
              list="land"
              empty="Flat ground. Add noise, a broad form or a heightmap; later entries act on what lies before them."
            />
            <BeyondPanel />
            <SurveyChoice />
          </SectionHead>
          <SectionHead section="water" title="Water" figure={<Wet />}>
            <EntryList
              list="water"
              empty="No water yet. Add a lake over all low ground, or a pool that fills one hollow."
            />
          </SectionHead>
          <SectionHead section="ground" title="Ground" figure={<Cover />}>
            <EntryList
              list="ground"
              empty="Bare ground. The first material lies everywhere; each later one lies over it where its rules hold."
            />
          </SectionHead>
          <SectionHead section="planting" title="Planting" figure={<PlantCount />}>
            <SeasonLine />
            <EntryList
              list="planting"
              empty="Nothing sown yet. Add large things first, then small ones."
            />
            <Pieces />
            <Thinning />
          </SectionHead>
          <SectionHead section="light" title="Light and air" figure={<SunFigure />}>
            <LightPanel />
          </SectionHead>
          <SectionHead section="shots" title="Shots" figure={<>{doc.shots.length}</>}>
            <EntryList list="shots" empty="No shot yet. Find a view on the face, then keep it." />
          </SectionHead>
          <SectionHead section="handover" title="Hand over" figure={<HandFigure />}>
            <HandOverPanel />
          </SectionHead>
          <SectionHead
            section="marks"
            title="Marks"
            figure={
              <>
                {doc.marks.length
                  ? (["line", "area", "mask"] as const)
                      .map((k) => [doc.marks.filter((m) => m.kind === k).length, k] as const)
                      .filter(([n]) => n)
                      .map(([n, k]) => `${n} ${k}${n > 1 ? "s" : ""}`)
                      .join(", ")
                  : "none"}
              </>
            }
          >
            <EntryList
              list="marks"
              empty="Lines and areas drawn on the map, masks from pictures: drawn once, used by land, ground and planting alike."
            />
          </SectionHead>
          <div className="border-t border-ink" />
        </>
      )}
    </div>
  );
}
