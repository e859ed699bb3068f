import { action } from "../actions/commands";
import { usePage } from "../state/store";

export function FaceTools() {
  const tool = usePage((s) => s.tool);
  const ready = usePage((s) => !!s.products);
  return (
    <div className="absolute top-3 right-3 flex">
      {["figure", "transect", "shot", "still", "goto", "overview", "clean"].map((id) => {
        const a = action(id);
        const Icon = a.icon!;
        return (
          <button
            key={id}
            disabled={!ready}
            className={`btn -ml-px h-[26px] px-[7px]! ${tool === id ? "on" : ""}`}
            aria-label={a.name}
            title={`${a.name} (${a.keys})`}
            onClick={a.run}
            data-action={id}
          >
            <Icon size={15} strokeWidth={1.7} />
          </button>
        );
      })}
    </div>
  );
}
