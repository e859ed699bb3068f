import { History, Redo2, Search, Undo2 } from "lucide-react";
import { action } from "../actions/commands";
import { shown } from "../document/numbers";
import { usePage } from "../state/store";

export function TitleBlock() {
  const state = usePage((s) => s.state);
  const doc = usePage((s) => s.doc);
  const m = usePage((s) => s.manifest);
  const lost = usePage((s) => s.lost);
  if (!state || !doc) return null;
  const time = new Date(state.kept).toLocaleTimeString("en-GB", {
    hour: "2-digit",
    minute: "2-digit",
  });
  const spacing = Math.max(doc.plot.width_m, doc.plot.depth_m) / (doc.plot.posts - 1);
  const next = (id: string) => {
    const step = id === "undo" ? state.undo : id === "redo" ? state.redo : null;
    return step ? `: ${step}` : "";
  };
  const icon = (id: string, Icon: typeof Undo2) => (
    <button
      className="icon"
      disabled={!action(id).can?.() && id !== "commands"}
      aria-label={action(id).name}
      title={`${action(id).name}${next(id)} (${action(id).keys})`}
      onClick={action(id).run}
      data-action={id}
    >
      <Icon size={15} />
    </button>
  );
  return (
    <div className="mt-2 grid shrink-0 grid-cols-2 border-[1.5px] border-ink text-[12.5px]">
      <div className="col-span-2 flex items-baseline justify-between gap-2 px-2 py-1">
        <button
          className="truncate font-show text-[15px] font-semibold hover:underline"
          title="Open another scene (Ctrl+O)"
          onClick={action("scenes").run}
        >
          {doc.name}
        </button>
        <span className={lost ? "text-rust" : "text-moss"} data-kept={state.revision}>
          {lost ? "waiting for the server" : `kept ${time}`}
        </span>
      </div>
      <Cell label="plot">
        <button
          className="hover:underline"
          data-action="plot"
          title={`${action("plot").name} (${action("plot").keys})`}
          onClick={action("plot").run}
        >
          {shown(doc.plot.width_m)} × {shown(doc.plot.depth_m)} m
        </button>
      </Cell>
      <Cell label="full grid" right>
        {doc.plot.posts} posts, {shown(spacing)} m
      </Cell>
      <Cell label="cost in full">
        {m ? `${shown(m.cost.full_triangles / 1e6)} M triangles` : "…"}
      </Cell>
      <Cell label={`history · ${state.steps}`} right>
        <span className="flex items-center gap-1">
          {icon("undo", Undo2)}
          {icon("redo", Redo2)}
          {icon("history", History)}
          {icon("commands", Search)}
        </span>
      </Cell>
    </div>
  );
}

function Cell({
  label,
  right,
  children,
}: {
  label: string;
  right?: boolean;
  children: React.ReactNode;
}) {
  return (
    <div className={`border-t border-rule px-2 py-[3px] ${right ? "border-l" : ""}`}>
      <small className="block text-[10.5px] leading-none text-soft">{label}</small>
      <div className="truncate">{children}</div>
    </div>
  );
}
