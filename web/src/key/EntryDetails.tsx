import type { ComponentType } from "react";
import type { Entry } from "../document/entry";
import { type ListName, pathOf } from "../document/lists";
import { modelOf } from "../document/schema";
import { Settings } from "../settings/Settings";
import { usePage } from "../state/store";
import type { DetailsProps } from "./details";
import { EntryHead } from "./EntryHead";
import { FarGroundDetails } from "./ground/FarGroundDetails";
import { GroundDetails } from "./ground/GroundDetails";
import { LandDetails } from "./land/LandDetails";
import { AirDetails } from "./light/AirDetails";
import { MarkDetails } from "./marks/MarkDetails";
import { SowingDetails } from "./planting/SowingDetails";
import { ShotDetails } from "./shots/ShotDetails";
import { WaterDetails } from "./water/WaterDetails";

/** What each list shows of its chosen entry besides name and switch. */
const DETAILS: Partial<Record<ListName, ComponentType<DetailsProps>>> = {
  land: LandDetails,
  far: LandDetails,
  water: WaterDetails,
  air: AirDetails,
  ground: GroundDetails,
  "far ground": FarGroundDetails,
  planting: SowingDetails,
  shots: ShotDetails,
  marks: MarkDetails,
};

/** Fields that a list shows in a place of their own. */
const APART: Partial<Record<ListName, string[]>> = { planting: ["density"] };

/** The chosen entry, unfolded in place. */
export function EntryDetails({
  list,
  index,
  entry,
}: {
  list: ListName;
  index: number;
  entry: Entry;
}) {
  const schema = usePage((s) => s.catalogue!.scene);
  const path = pathOf(list, index);
  const Details = DETAILS[list];
  const settings = (
    <Settings
      path={path}
      model={modelOf(schema, list, entry.kind)}
      owner={entry.name}
      skip={APART[list]}
    />
  );
  return (
    <div className="mt-1 pl-[2px]">
      <EntryHead list={list} index={index} entry={entry} path={path} />
      {Details ? (
        <Details list={list} index={index} entry={entry} path={path} settings={settings} />
      ) : (
        settings
      )}
    </div>
  );
}
