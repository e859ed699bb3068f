import type { Model, Prop } from "../api/shapes";
import { counts } from "./counts";
import { widgetOf } from "./widgets";

export type Values = Record<string, unknown>;

/** A model's first values with those that were set. */
export function withDefaults(model: Model, values: Values): Values {
  const first = Object.entries(model.properties).map(([name, p]) => [name, p.default]);
  return { ...Object.fromEntries(first), ...values };
}

/** The fields of a model that count with these values; of what is not wanted only that. */
export function asked(model: Model, now: Values): [string, Prop][] {
  const all = Object.entries(model.properties);
  if ("wanted" in now && !now.wanted) return all.filter(([name]) => name === "wanted");
  return all.filter(([, prop]) => counts(prop, now));
}

/** The fields of a model that is no part of the document, as the options of an exporter. */
export function Options({
  model,
  values,
  onChange,
}: {
  model: Model;
  values: Values;
  onChange: (values: Values) => void;
}) {
  const now = withDefaults(model, values);
  return (
    <>
      {asked(model, now).map(([name, prop]) => {
        const Widget = widgetOf(prop);
        const keep = (value: unknown) => onChange({ ...values, [name]: value });
        return Widget ? (
          <Widget
            key={name}
            prop={prop}
            name={name}
            label={prop.title ?? name}
            value={now[name]}
            owner=""
            path={[]}
            onDrag={keep}
            onKeep={keep}
          />
        ) : null;
      })}
    </>
  );
}
