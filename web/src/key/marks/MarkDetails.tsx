import type { DrawnMark, MaskMark } from "../../api/shapes";
import type { DetailsProps } from "../details";
import { LineTools } from "./LineTools";
import { MaskBrush } from "./MaskBrush";
import { MaskPanel } from "./MaskPanel";

/** A mask with its brush, or a line or an area with what is done to the whole of it. */
export function MarkDetails({ entry, path, settings }: DetailsProps) {
  if (entry.kind === "mask")
    return (
      <>
        <MaskBrush />
        <MaskPanel path={path} entry={entry as unknown as MaskMark} />
        {settings}
      </>
    );
  return (
    <>
      <LineTools entry={entry as unknown as DrawnMark} />
      {settings}
    </>
  );
}
