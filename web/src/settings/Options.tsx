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

/**
 * The fields of a model that is no part of the document, as the options of an exporter; `pictures`
 * are addresses of those that stand beside some of them.
 */
export function Options({
  model,
  values,
  pictures = {},
  onChange,
}: {
  model: Model;
  values: Values;
  pictures?: Record<string, string>;
  onChange: (values: Values) => void;
}) {
  const now = withDefaults(model, values);
  return (
    <>
      {asked(model, now).map(([name, prop]) => {
        const Widget = widgetOf(prop);
        const keep = (value: unknown) => onChange({ ...values, [name]: value });
        if (!Widget) return null;
        const field = (
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
        );
        if (!pictures[name]) return field;
        return (
          <div key={name} className="flex items-center justify-between gap-2">
            {field}
            <img
              alt=""
              data-tick={name}
              src={pictures[name]}
              className="mt-1 h-[24px] w-[32px] shrink-0 border border-rule object-cover"
            />
          </div>
        );
      })}
    </>
  );
}
