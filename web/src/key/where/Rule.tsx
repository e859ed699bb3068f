import { X } from "lucide-react";
import type { WhereAnswer } from "../../api/shapes";
import { shown } from "../../document/numbers";
import { at, type Path, put } from "../../document/path";
import { modelOf } from "../../document/schema";
import { Settings } from "../../settings/Settings";
import { edit } from "../../state/edits";
import { usePage } from "../../state/store";
import { Band, PLAIN } from "./Band";

/** A condition of the document, with what all have. */
export interface Condition {
  kind: string;
  on?: boolean;
  invert?: boolean;
  join?: string;
  take?: string;
  share?: number;
  low?: number;
  high?: number;
}

type Told = WhereAnswer["conditions"][number];

const JOINS: Record<string, string> = { all: "and", any: "or", except: "except" };

/** One condition of a where-list: how it joins, its switch, its band, its settings. */
export function Rule({
  path,
  index,
  condition,
  name,
  owner,
  told,
}: {
  path: Path;
  index: number;
  condition: Condition;
  name: string;
  owner: string;
  told: Told | undefined;
}) {
  const schema = usePage((s) => s.catalogue!.scene);
  const here = [...path, "where", index];
  const banded = condition.low !== undefined && !PLAIN.includes(condition.kind);
  const found = !!condition.take && condition.take !== "band";
  const hidden = banded || found ? ["join", "low", "high"] : ["join"];
  return (
    <div className="mt-1 border-l-2 border-gold/60 pl-2" data-where={condition.kind}>
      {index > 0 && <Joins here={here} condition={condition} name={name} owner={owner} />}
      {told?.absent && (
        <div className="text-rust" data-absent>
          {told.absent} It asks nothing until one is chosen.
        </div>
      )}
      <RuleHead path={path} index={index} condition={condition} name={name} owner={owner} />
      {found ? (
        <div className="text-soft" data-found>
          {condition.take === "lowest"
            ? `up to ${shown(told?.high ?? 0)}`
            : `from ${shown(told?.low ?? 0)}`}
          : found for {shown(condition.share ?? 0)} % of what the rules before it leave
        </div>
      ) : banded ? (
        <Band path={here} kind={condition.kind} owner={owner} />
      ) : null}
      <Settings
        path={here}
        model={modelOf(schema, "where", condition.kind)}
        owner={owner}
        skip={hidden}
      />
    </div>
  );
}

interface Part {
  condition: Condition;
  name: string;
  owner: string;
}

/** How a condition joins the list before it. */
function Joins({ here, condition, name, owner }: Part & { here: Path }) {
  const now = condition.join ?? "all";
  return (
    <div className="flex gap-2 text-[11.5px]" role="radiogroup" aria-label={`How ${name} joins`}>
      {Object.entries(JOINS).map(([join, word]) => (
        <button
          key={join}
          role="radio"
          aria-checked={now === join}
          className={
            now === join ? "font-semibold text-moss" : "text-soft underline decoration-dotted"
          }
          onClick={() =>
            void edit(`${owner}: ${name} joins`, (d) => put(d, [...here, "join"], join))
          }
        >
          {word}
        </button>
      ))}
    </div>
  );
}

/** A condition's name with its switches and the button that takes it out. */
function RuleHead({ path, index, condition, name, owner }: Part & { path: Path; index: number }) {
  const here = [...path, "where", index];
  const tick = (field: "on" | "invert", label: string, value: boolean) =>
    void edit(label, (d) => put(d, [...here, field], value));
  return (
    <div className="flex items-center justify-between">
      <label className="flex items-center gap-1 text-soft">
        <input
          type="checkbox"
          className="accent-moss"
          aria-label={`${name} on`}
          checked={condition.on !== false}
          onChange={(e) => tick("on", `${owner}: ${name}`, e.target.checked)}
        />
        {name}
      </label>
      <span className="flex items-center gap-2">
        <label className="flex items-center gap-1 text-soft">
          <input
            type="checkbox"
            className="accent-moss"
            checked={!!condition.invert}
            onChange={(e) => tick("invert", `${owner}: invert ${name}`, e.target.checked)}
          />
          invert
        </label>
        <button
          className="icon"
          aria-label={`Remove ${name}`}
          onClick={() =>
            void edit(`${owner}: no ${name}`, (d) => {
              (at(d, path) as { where: unknown[] }).where.splice(index, 1);
            })
          }
        >
          <X size={13} />
        </button>
      </span>
    </div>
  );
}
