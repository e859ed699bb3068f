import type { DetailsProps } from "../details";
import { Where } from "../where/Where";

/** A material of the far land: its settings, where it lies. */
export function FarGroundDetails({ entry, path, settings }: DetailsProps) {
  return (
    <>
      {settings}
      <Where path={path} stage="ground" owner={entry.name} />
    </>
  );
}
