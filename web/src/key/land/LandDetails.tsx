import type { Borrowed, ByHand, Heightmap } from "../../api/shapes";
import type { DetailsProps } from "../details";
import { Where } from "../where/Where";
import { BorrowFrom } from "./BorrowFrom";
import { Finest } from "./Finest";
import { HandPanel } from "./HandPanel";
import { LandLineTools } from "./LandLineTools";
import { OwnPosts } from "./OwnPosts";

/** A landform or process: how it is seen alone, its settings, where it acts. */
export function LandDetails({ list, entry, path, settings }: DetailsProps) {
  const by = entry as unknown;
  return (
    <>
      <LandLineTools list={list} entry={entry} path={path} />
      {entry.kind === "hand" ? <HandPanel path={path} entry={by as ByHand} /> : settings}
      {entry.octaves && entry.feature_m ? (
        <Finest entry={by as Parameters<typeof Finest>[0]["entry"]} />
      ) : null}
      {entry.kind === "heightmap" && <OwnPosts entry={by as Heightmap} />}
      {entry.kind === "borrowed" && <BorrowFrom path={path} entry={by as Borrowed} />}
      <Where path={path} stage="land" owner={entry.name} />
    </>
  );
}
