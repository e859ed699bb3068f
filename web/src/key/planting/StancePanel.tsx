import { useState } from "react";
import type { Model } from "../../api/shapes";
import { Settings } from "../../settings/Settings";
import { StanceFor } from "./StanceFor";

export function StancePanel({
  path,
  owner,
  model,
}: {
  path: (string | number)[];
  owner: string;
  model: Model;
}) {
  const [open, setOpen] = useState(false);
  return (
    <div className="mt-2 border-t border-rule pt-1">
      <button
        className="flex w-full justify-between font-semibold"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        Stance
        <span className="font-normal text-soft">{open ? "fold" : "turn, size, lean, sink"}</span>
      </button>
      {open && (
        <>
          <Settings path={[...path, "stance"]} model={model} owner={owner} />
          <StanceFor index={path[1] as number} />
        </>
      )}
    </div>
  );
}
