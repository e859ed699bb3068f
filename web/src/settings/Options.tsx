import type { Model } from "../api/shapes";
import { widgetOf } from "./widgets";

export type Values = Record<string, unknown>;

/** A model's first values with those that were set. */
export function withDefaults(model: Model, values: Values): Values {
  const first = Object.entries(model.properties).map(([name, p]) => [name, p.default]);
  return { ...Object.fromEntries(first), ...values };
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
      {Object.entries(model.properties).map(([name, prop]) => {
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
