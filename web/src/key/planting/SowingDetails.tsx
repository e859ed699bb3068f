import type { Sowing } from "../../api/shapes";
import { usePage } from "../../state/store";
import type { DetailsProps } from "../details";
import { Where } from "../where/Where";
import { Mix } from "./Mix";
import { PlacesTable } from "./Places";
import { SaveMix } from "./SaveMix";
import { StancePanel } from "./StancePanel";
import { Tones } from "./Tones";

/** A sowing: its mix, its layout, how each one stands, its tones, where it grows. */
export function SowingDetails({ index, entry, path, settings }: DetailsProps) {
  const stance = usePage((s) => s.catalogue!.scene.$defs.Stance);
  const sowing = entry as unknown as Sowing;
  return (
    <>
      {sowing.layout === "given" && <PlacesTable index={index} entry={sowing} />}
      <Mix path={path} entry={sowing} />
      {settings}
      <StancePanel path={path} owner={entry.name} model={stance} />
      <Tones entry={sowing} />
      <SaveMix entry={sowing} />
      <Where path={path} stage="planting" owner={entry.name} />
    </>
  );
}
