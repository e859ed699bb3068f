import type { Model, Prop, Scene } from "../api/shapes";
import { Fold } from "../controls/Fold";
import { at, type Path, put } from "../document/path";
import { drag, edit } from "../state/edits";
import { usePage } from "../state/store";
import { counts } from "./counts";
import { widgetOf } from "./widgets";

/** Fields that have a place of their own in a panel. */
const APART = ["id", "name", "on", "kind", "where", "mix", "stance", "format", "group", "land"];

/** One field of the document at a path. */
export function Setting({
  path,
  name,
  prop,
  owner,
}: {
  path: Path;
  name: string;
  prop: Prop;
  owner: string;
}) {
  const value = usePage((s) => at(s.doc, [...path, name]) ?? prop.default);
  const holds = usePage((s) => counts(prop, at(s.doc, path)));
  const Widget = widgetOf(prop);
  if (!holds || !Widget) return null;
  const label = prop.title ?? name;
  const change = (v: unknown) => (d: Scene) => put(d, [...path, name], v);
  return (
    <Widget
      prop={prop}
      name={name}
      label={label}
      value={value}
      owner={owner}
      path={path}
      onDrag={(v) => drag(change(v))}
      onKeep={(v) => void edit(`${owner}: ${label.toLowerCase()}`, change(v))}
    />
  );
}

/**
 * All plain fields of a model, in the schema's order; those of one fold under a heading that opens.
 */
export function Settings({
  path,
  model,
  owner,
  skip = [],
}: {
  path: Path;
  model: Model;
  owner: string;
  skip?: string[];
}) {
  const inverted = model.properties.raster ? [] : ["invert"];
  const hidden = new Set([...APART, ...inverted, ...skip]);
  const fields = Object.entries(model.properties).filter(([n]) => !hidden.has(n));
  const folds = [...new Set(fields.flatMap(([, p]) => p.sow?.fold ?? []))];
  const one = ([n, p]: [string, Prop]) => (
    <Setting key={n} path={path} name={n} prop={p} owner={owner} />
  );
  return (
    <>
      {fields.filter(([, p]) => !p.sow?.fold).map(one)}
      {folds.map((f) => (
        <Fold key={f} title={f}>
          {fields.filter(([, p]) => p.sow?.fold === f).map(one)}
        </Fold>
      ))}
    </>
  );
}
