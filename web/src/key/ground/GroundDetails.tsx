import type { Material } from "../../api/shapes";
import type { DetailsProps } from "../details";
import { ShowWhere } from "../land/ShowWhere";
import { Where } from "../where/Where";
import { Match } from "./Match";

/** A material: its settings, its colour beside the plants', where it lies. */
export function GroundDetails({ index, entry, path, settings }: DetailsProps) {
  return (
    <>
      {settings}
      <Match entry={entry as unknown as Material} index={index} />
      <ShowWhere index={index} />
      <Where path={path} stage="ground" owner={entry.name} />
    </>
  );
}
