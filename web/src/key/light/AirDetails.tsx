import { set, usePage } from "../../state/store";
import type { DetailsProps } from "../details";

/** Things with a place are put there by a click; a lamp is aimed by another. */
export function AirDetails({ entry, settings }: DetailsProps) {
  const tool = usePage((s) => s.tool);
  const button = (name: "stand" | "aim", label: string) => (
    <button
      className={`btn mt-1 mr-1 ${tool === name ? "on" : ""}`}
      data-air-tool={name}
      onClick={() => set({ tool: tool === name ? null : name })}
    >
      {label}
    </button>
  );
  return (
    <>
      {settings}
      {entry.kind !== "hollow-mist" && button("stand", "Place by a click")}
      {entry.kind === "lamp" && button("aim", "Aim by a click")}
    </>
  );
}
