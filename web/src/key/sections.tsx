import type { ComponentType } from "react";
import type { Section } from "../document/sections";
import { usePage } from "../state/store";
import { SurveyChoice } from "../survey/SurveyChoice";
import { EntryList } from "./EntryList";
import { Cover, HandFigure, PlantCount, Relief, SunFigure, Wet } from "./figures";
import { HandOverPanel } from "./handover/HandOverPanel";
import { BeyondPanel } from "./land/BeyondPanel";
import { LightPanel } from "./light/LightPanel";
import { MarkButtons } from "./marks/MarkButtons";
import { Pieces } from "./planting/Pieces";
import { PlacesButton } from "./planting/Places";
import { SeasonLine } from "./planting/SeasonLine";
import { Thinning } from "./planting/Thinning";
import { SectionTools, type Tool } from "./SectionTools";
import { GradePanel } from "./shots/GradePanel";
import { KeepShot } from "./shots/KeepShot";
import { MovesPanel } from "./shots/MovesPanel";
import { StillList } from "./shots/StillList";

const MARK_KINDS = ["line", "area", "mask"] as const;

function MarkCount() {
  const marks = usePage((s) => s.doc!.marks);
  const counts = MARK_KINDS.map((k) => [marks.filter((m) => m.kind === k).length, k] as const);
  const told = counts.filter(([n]) => n).map(([n, k]) => `${n} ${k}${n > 1 ? "s" : ""}`);
  return <>{told.join(", ") || "none"}</>;
}

function ShotCount() {
  return <>{usePage((s) => s.doc!.shots.length)}</>;
}

/** Buttons under a word that says what they are for. */
const tools = (groups: [string, Tool[]][]) => () => (
  <>
    {groups.map(([label, list]) => (
      <SectionTools key={label} label={label} tools={list} />
    ))}
  </>
);

const LandTools = tools([
  [
    "whole",
    [
      ["lands", "lands"],
      ["proof", "proof"],
      ["reality", "reality"],
      ["hide-land", "hide"],
    ],
  ],
]);
const GroundTools = tools([
  [
    "whole",
    [
      ["ground-presets", "sets"],
      ["texture-sizes", "texels"],
      ["why", "why here"],
    ],
  ],
]);
const PlantingTools = tools([
  [
    "find",
    [
      ["cabinet", "cabinet"],
      ["mixes", "mixes"],
    ],
  ],
  [
    "judge",
    [
      ["proof", "proof"],
      ["faults", "faults"],
      ["why", "why here"],
    ],
  ],
  [
    "view",
    [
      ["alone", "alone"],
      ["cards", "cards"],
      ["play", "wind"],
    ],
  ],
]);

function Land() {
  return (
    <>
      <EntryList
        list="land"
        add="landform or process"
        empty={
          "Flat ground. Add noise, a broad form or a heightmap; later entries act on " +
          "what lies before them."
        }
      />
      <LandTools />
      <BeyondPanel />
      <SurveyChoice />
    </>
  );
}

function Water() {
  return (
    <EntryList
      list="water"
      add="water"
      empty="No water yet. Add a lake over all low ground, or a pool that fills one hollow."
    />
  );
}

function Ground() {
  return (
    <>
      <EntryList
        list="ground"
        add="material"
        empty={
          "Bare ground. The first material lies everywhere; each later one lies over " +
          "it where its rules hold."
        }
      />
      <GroundTools />
    </>
  );
}

function Planting() {
  return (
    <>
      <SeasonLine />
      <EntryList
        list="planting"
        add="sowing"
        empty="Nothing sown yet. Add large things first, then small ones."
        more={<PlacesButton />}
      />
      <PlantingTools />
      <Pieces />
      <Thinning />
    </>
  );
}

function Shots() {
  return (
    <>
      <EntryList
        list="shots"
        empty="No shot yet. Find a view on the face, then keep it."
        more={<KeepShot />}
      />
      <GradePanel />
      <MovesPanel />
      <StillList />
    </>
  );
}

function Marks() {
  return (
    <EntryList
      list="marks"
      empty={
        "Lines and areas drawn on the map, masks from pictures: drawn once, used " +
        "by land, ground and planting alike."
      }
      more={<MarkButtons />}
    />
  );
}

/** A section of the key: its live figure when folded, and its body. */
interface SectionRow {
  figure: ComponentType;
  body: ComponentType;
}

/** THE table of the key's sections; their order and titles stand in document/sections. */
export const SECTION_ROWS: Record<Section, SectionRow> = {
  land: { figure: Relief, body: Land },
  water: { figure: Wet, body: Water },
  ground: { figure: Cover, body: Ground },
  planting: { figure: PlantCount, body: Planting },
  light: { figure: SunFigure, body: LightPanel },
  shots: { figure: ShotCount, body: Shots },
  handover: { figure: HandFigure, body: HandOverPanel },
  marks: { figure: MarkCount, body: Marks },
};
