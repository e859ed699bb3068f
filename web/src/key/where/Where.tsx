import { doWork } from "../../actions/work";
import { AddMenu } from "../../controls/AddMenu";
import { shown } from "../../document/numbers";
import { at, type Path } from "../../document/path";
import { useRules } from "../../state/offers";
import { usePage } from "../../state/store";
import { type Condition, Rule } from "./Rule";
import { useHolds } from "./useHolds";

/** A list of conditions, with what it holds and a menu of rules to add. */
export function Where({
  path,
  stage,
  owner,
  title = "Where",
  none = ": everywhere",
}: {
  path: Path;
  stage: "land" | "ground" | "planting";
  owner: string;
  title?: string;
  none?: string;
}) {
  const list = usePage((s) => at(s.doc, [...path, "where"]) as Condition[]);
  const conditions = usePage((s) => s.catalogue!.conditions);
  const plot = usePage((s) => s.doc!.plot);
  const rules = useRules(stage);
  const holds = useHolds(path);
  const labels = new Map(conditions.map((c) => [c.kind, c.label]));
  const offered = rules.filter((r) => !looksAtNothing(r.key, path));
  return (
    <div className="mt-2 border-t border-rule pt-1">
      <div className="flex items-center justify-between">
        <span className="font-semibold">
          {title}
          {holds && list.length ? (
            <span className="font-normal text-soft" data-holds>
              {" "}
              {shown(holds.share * 100)} %,{" "}
              {shown((holds.share * plot.width_m * plot.depth_m) / 1e4)} ha
            </span>
          ) : null}
          {list.length ? "" : <span className="font-normal text-soft">{none}</span>}
        </span>
        <AddMenu
          label="rule"
          items={offered.map((r) => ({ key: r.key, label: r.label, note: r.note }))}
          onPick={(key) => void doWork("add a rule", { path, key })}
        />
      </div>
      {list.map((c, i) => (
        <Rule
          key={i}
          path={path}
          index={i}
          condition={c}
          name={labels.get(c.kind) ?? c.kind}
          owner={owner}
          told={holds?.conditions.find((x) => x.index === i)}
        />
      ))}
    </div>
  );
}

/** Whether a rule would look at an earlier entry where there is none. */
function looksAtNothing(kind: string, path: Path): boolean {
  if (path[1] !== 0) return false;
  const ofGround = kind === "covered" || kind === "near-material";
  return kind === "near-sowing" || (ofGround && path[0] === "ground");
}
